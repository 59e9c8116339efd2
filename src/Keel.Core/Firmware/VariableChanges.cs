namespace Keel.Core.Firmware;

/// <summary>The variables that a repair changes; it never changes itself.</summary>
/// <param name="Folder">Where their files are.</param>
/// <param name="Files">The variable files that change.</param>
public sealed record VariableChanges(string Folder, IReadOnlyList<VariableChange> Files);

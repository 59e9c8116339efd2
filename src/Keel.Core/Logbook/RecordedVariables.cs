namespace Keel.Core.Logbook;

/// <summary>The firmware variables that a repair wrote.</summary>
/// <param name="Folder">Where their files are.</param>
/// <param name="Files">The variable files.</param>
public sealed record RecordedVariables(string Folder, IReadOnlyList<RecordedVariable> Files);

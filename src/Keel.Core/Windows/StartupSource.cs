namespace Keel.Core.Windows;

/// <summary>What names programs that start by themselves.</summary>
/// <param name="Container">The path of a hive, or of a folder.</param>
/// <param name="Key">The key in the hive; empty for a folder.</param>
/// <param name="Approved">The key in which Windows notes what is off; null where there is none.</param>
public sealed record StartupSource(string Container, string Key, string? Approved = null);

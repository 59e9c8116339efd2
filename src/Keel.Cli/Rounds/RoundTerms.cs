namespace Keel.Cli.Rounds;

/// <summary>How a round is done.</summary>
/// <param name="Jobs">How many targets are looked at side by side.</param>
/// <param name="MendsSafely">Whether plans that lose nothing are carried out.</param>
/// <param name="Logbook">The folder of the logbook, as it was named; null for the usual one.</param>
/// <param name="Keys">The file with the keys of encrypted volumes; null where none are at hand.</param>
/// <param name="Patience">How long one target may take.</param>
internal sealed record RoundTerms(int Jobs, bool MendsSafely, string? Logbook, string? Keys, TimeSpan Patience);

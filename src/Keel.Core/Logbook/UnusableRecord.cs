namespace Keel.Core.Logbook;

/// <summary>A record that can't be used: the others can.</summary>
/// <param name="Id">The name of its folder.</param>
/// <param name="IsNewer">A newer keel wrote it; otherwise it is damaged.</param>
/// <param name="Why">In a few words.</param>
public sealed record UnusableRecord(string Id, bool IsNewer, string Why);

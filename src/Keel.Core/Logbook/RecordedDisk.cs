namespace Keel.Core.Logbook;

/// <summary>A disk that a repair wrote to.</summary>
/// <param name="IdentityBefore">Signature or GUID before the repair.</param>
/// <param name="IdentityAfter">The same after it.</param>
public sealed record RecordedDisk(string Path, long LengthBytes, string IdentityBefore, string IdentityAfter, IReadOnlyList<RecordedRange> Ranges);

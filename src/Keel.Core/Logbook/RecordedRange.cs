namespace Keel.Core.Logbook;

/// <summary>A range of a disk that a repair wrote, in bytes, with the SHA-256 of what was and what is there.</summary>
public sealed record RecordedRange(long Start, int Length, string Sha256Before, string Sha256After);

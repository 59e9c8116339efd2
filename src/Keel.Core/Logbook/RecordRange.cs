namespace Keel.Core.Logbook;

/// <summary>One range of a record with the bytes that were saved.</summary>
/// <param name="Part">The index of its disk in the record.</param>
internal sealed record RecordRange(int Part, RecordedRange Range, byte[] Before, byte[] After);

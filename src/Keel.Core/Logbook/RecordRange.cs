namespace Keel.Core.Logbook;

/// <summary>One range of a record with the bytes that were saved.</summary>
/// <param name="Part">The index of its disk in the record.</param>
/// <param name="Range">Where on the disk it lies.</param>
/// <param name="Before">What stood there. The memory is used again as soon as the next range is asked for, as that of
///     <paramref name="After"/>.</param>
/// <param name="After">The checksum of what was written.</param>
internal sealed record RecordRange(int Part, RecordedRange Range, ReadOnlyMemory<byte> Before, ReadOnlyMemory<byte> After);

using System.Buffers.Binary;
using System.Text;
using Keel.Core.Blocks;

namespace Keel.Core.EventLogs;

/// <summary>
/// An event log of NT 5 (evt: MS-EVEN). The file is a ring of bytes behind its header: a record may begin at the end and go on at
/// the start. Records are found by their marks, so a log that was not closed is read like any other.
/// </summary>
internal sealed class OldEventLogFile : IEventLog
{
    private const int HeaderBytes = 0x30, LimitBytes = 64 * 1024 * 1024, RecordLimitBytes = 256 * 1024;

    private readonly IReadableBlocks contents;

    private OldEventLogFile(IReadableBlocks contents) => this.contents = contents;

    /// <inheritdoc/>
    public int DamagedPlaces { get; private set; }

    /// <summary>The log; null where the file is not one.</summary>
    public static OldEventLogFile? TryOpen(IReadableBlocks contents) =>
        contents.TryRead(0, HeaderBytes) is { } head
        && BinaryPrimitives.ReadUInt32LittleEndian(head) == HeaderBytes
        && BinaryPrimitives.ReadUInt32LittleEndian(head.AsSpan(OldEventRecord.MarkAt)) == OldEventRecord.UsualMark
            ? new OldEventLogFile(contents)
            : null;

    /// <inheritdoc/>
    public IEnumerable<LoggedEvent> NewestFirst(Func<string, int, bool> wanted)
    {
        var ring = contents.ReadBytes(HeaderBytes, (int)Math.Min(LimitBytes, contents.LengthBytes - HeaderBytes));
        var found = new List<LoggedEvent>();
        var at = 0;
        while (at <= ring.Length - sizeof(ulong))
        {
            if (BinaryPrimitives.ReadUInt32LittleEndian(ring.AsSpan(at + OldEventRecord.MarkAt)) != OldEventRecord.UsualMark
                || RecordAt(ring, at) is not { } record)
            {
                at += sizeof(uint);
                continue;
            }

            if (!TryRead(record, wanted, out var logged)) DamagedPlaces++;
            else if (logged is not null) found.Add(logged);
            at += record.Length;
        }

        return found.OrderByDescending(logged => logged.Number);
    }

    /// <summary>The record that begins there, also where it goes on at the ring's start; null where it is none.</summary>
    private static byte[]? RecordAt(byte[] ring, int at)
    {
        var size = BinaryPrimitives.ReadUInt32LittleEndian(ring.AsSpan(at));
        const int least = OldEventRecord.HeadBytes + OldEventRecord.TailBytes;
        if (size < least || size > Math.Min(RecordLimitBytes, ring.Length)) return null;
        var record = new byte[size];
        var first = (int)Math.Min(size, ring.Length - at);
        ring.AsSpan(at, first).CopyTo(record);
        ring.AsSpan(0, record.Length - first).CopyTo(record.AsSpan(first));
        var atEnd = BinaryPrimitives.ReadUInt32LittleEndian(record.AsSpan(record.Length - OldEventRecord.TailBytes));
        return atEnd == size ? record : null;
    }

    private static bool TryRead(byte[] record, Func<string, int, bool> wanted, out LoggedEvent? found)
    {
        found = null;
        var head = record.At<OldEventRecord>(0);
        var at = OldEventRecord.HeadBytes;
        if (TextAt(record, ref at) is not { Length: > 0 } source) return false;
        var id = (int)(head.EventId & ushort.MaxValue);
        if (!wanted(source, id)) return true;
        var values = new List<EventValue>();
        at = head.StringsAt < record.Length ? (int)head.StringsAt : record.Length;
        for (var number = 0; number < head.StringCount && TextAt(record, ref at) is { } text; number++)
            values.Add(new EventValue("", text));
        found = new LoggedEvent(head.Number, TimeOf(head.Generated), source, id, values);
        return true;
    }

    private static DateTimeOffset? TimeOf(uint seconds) => seconds == 0 ? null : DateTimeOffset.FromUnixTimeSeconds(seconds);

    /// <summary>The text that begins there and ends in a zero; null where it does not end.</summary>
    private static string? TextAt(byte[] record, ref int at)
    {
        for (var end = at; end <= record.Length - sizeof(char); end += sizeof(char))
        {
            if (record[end] != 0 || record[end + 1] != 0) continue;
            var text = Encoding.Unicode.GetString(record, at, end - at);
            at = end + sizeof(char);
            return text;
        }

        return null;
    }
}

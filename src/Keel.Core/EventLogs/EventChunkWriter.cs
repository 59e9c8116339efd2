using System.IO.Hashing;
using System.Runtime.CompilerServices;
using Keel.Core.Blocks;

namespace Keel.Core.EventLogs;

/// <summary>Fills one chunk of an event log.</summary>
/// <param name="computer">The name of the computer.</param>
internal sealed class EventChunkWriter(string computer)
{
    private const int Alignment = 8;

    private readonly byte[] chunk = new byte[EventLogChunkRecord.ChunkBytes];
    private Dictionary<string, int> templates = [];
    private Dictionary<string, int> names = [];
    private (ulong First, ulong Last) numbers = (0, 0);
    private int lastAt, free = EventLogChunkRecord.RecordsAt;

    /// <summary>Adds an event; false where the chunk has no room for it.</summary>
    public bool TryAdd(ulong number, WrittenEvent logged)
    {
        var (namesBefore, templatesBefore) = (new Dictionary<string, int>(names), new Dictionary<string, int>(templates));
        var listsBefore = chunk.AsSpan(0, EventLogChunkRecord.RecordsAt).ToArray();
        var xml = new BinaryXmlWriter(chunk, free + EventRecord.HeadBytes, names, templates);
        if (!xml.TryWrite(number, logged, computer) || Size(xml.End) is var size && free + size > chunk.Length)
        {
            (names, templates) = (namesBefore, templatesBefore);
            listsBefore.CopyTo(chunk, 0);
            chunk.AsSpan(free).Clear();
            return false;
        }

        var record = new EventRecord
        {
            Mark = EventRecord.UsualMark,
            Size = (uint)size,
            Number = number,
            Written = logged.Time.ToFileTime()
        };
        chunk.Put(free, record);
        chunk.Put(free + size - EventRecord.TailBytes, record.Size);
        numbers = (numbers.First == 0 ? number : numbers.First, number);
        (lastAt, free) = (free, free + size);
        return true;
    }

    /// <summary>The chunk, with its header and checksums.</summary>
    public byte[] ToBytes()
    {
        var head = new EventLogChunkRecord
        {
            Mark = EventLogChunkRecord.UsualMark,
            FirstPlace = numbers.First,
            LastPlace = numbers.Last,
            FirstNumber = numbers.First,
            LastNumber = numbers.Last,
            HeaderBytes = (uint)Unsafe.SizeOf<EventLogChunkRecord>(),
            LastRecordAt = (uint)lastAt,
            FreeAt = (uint)free,
            RecordsChecksum = Crc32.HashToUInt32(chunk.AsSpan(EventLogChunkRecord.RecordsAt..free))
        };
        chunk.Put(0, head);
        var sum = new Crc32();
        sum.Append(chunk.AsSpan(0, EventLogChunkRecord.SummedBytes));
        sum.Append(chunk.AsSpan(EventLogChunkRecord.NamesAt, EventLogChunkRecord.RecordsAt - EventLogChunkRecord.NamesAt));
        head.Checksum = sum.GetCurrentHashAsUInt32();
        chunk.Put(0, head);
        return chunk;
    }

    private int Size(int end) => (end - free + EventRecord.TailBytes + Alignment - 1) / Alignment * Alignment;
}

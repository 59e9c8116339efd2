using System.Buffers.Binary;
using System.Runtime.CompilerServices;
using Keel.Core.Blocks;

namespace Keel.Core.EventLogs;

/// <summary>
/// An event log of NT 6 and later (evtx: MS-EVEN6, and published notes on the format). Chunks form a ring; their headers say
/// which events each holds, whatever the file's own header says, and so a log that was not closed is read like any other.
/// </summary>
internal sealed class EventLogFile : IEventLog
{
    private const int ChunksLimit = 16 * 1024;
    private static readonly int ChunkHeadBytes = Unsafe.SizeOf<EventLogChunkRecord>();
    private static readonly int FileHeadBytes = Unsafe.SizeOf<EventLogFileRecord>();

    private readonly IReadableBlocks contents;

    private EventLogFile(IReadableBlocks contents) => this.contents = contents;

    /// <inheritdoc/>
    public int DamagedPlaces { get; private set; }

    /// <summary>The log; null where the file is not one.</summary>
    public static EventLogFile? TryOpen(IReadableBlocks contents) =>
        contents.TryRead(0, FileHeadBytes) is { } head
        && head.At<EventLogFileRecord>(0).Mark == EventLogFileRecord.UsualMark
            ? new EventLogFile(contents)
            : null;

    /// <inheritdoc/>
    public IEnumerable<LoggedEvent> NewestFirst(Func<string, int, bool> wanted)
    {
        var buffer = new byte[EventLogChunkRecord.ChunkBytes];
        foreach (var (at, _) in Chunks().OrderByDescending(chunk => chunk.Last))
        {
            var length = (int)Math.Min(buffer.Length, contents.LengthBytes - at);
            contents.Read(at, buffer.AsSpan(0, length));
            buffer.AsSpan(length).Clear();
            var found = EventsOf(buffer, wanted);
            for (var newest = found.Count - 1; newest >= 0; newest--) yield return found[newest];
        }
    }

    /// <summary>Where the chunks that hold events begin, each with the number of its last event.</summary>
    private List<(long At, ulong Last)> Chunks()
    {
        var chunks = new List<(long At, ulong Last)>();
        var buffer = new byte[ChunkHeadBytes];
        for (var chunk = 0; chunk < ChunksLimit; chunk++)
        {
            var at = EventLogFileRecord.BlockBytes + ((long)chunk * EventLogChunkRecord.ChunkBytes);
            if (at > contents.LengthBytes - EventLogChunkRecord.RecordsAt) break;
            contents.Read(at, buffer);
            var head = buffer.At<EventLogChunkRecord>(0);
            var last = head.LastNumber == ulong.MaxValue ? head.FirstNumber : head.LastNumber;
            if (head.Mark == EventLogChunkRecord.UsualMark) chunks.Add((at, last));
            else if (head.Mark != 0) DamagedPlaces++;
        }

        return chunks;
    }

    private List<LoggedEvent> EventsOf(byte[] chunk, Func<string, int, bool> wanted)
    {
        var events = new List<LoggedEvent>();
        var reader = new EventReader(chunk);
        var free = chunk.At<EventLogChunkRecord>(0).FreeAt;
        var at = EventLogChunkRecord.RecordsAt;
        while (at <= chunk.Length - EventRecord.HeadBytes - EventRecord.TailBytes)
        {
            var record = chunk.At<EventRecord>(at);
            if (!IsWhole(chunk, at, record))
            {
                // Behind the last record lies what is left of older use; before that, a record is damaged.
                if (at >= free || IsEmpty(chunk, at)) break;
                DamagedPlaces++;
                at = NextRecord(chunk, at);
                continue;
            }

            var end = at + (int)record.Size - EventRecord.TailBytes;
            if (!reader.TryRead(at + EventRecord.HeadBytes, end, record, wanted, out var found)) DamagedPlaces++;
            else if (found is not null) events.Add(found);
            at += (int)record.Size;
        }

        return events;
    }

    private static bool IsWhole(byte[] chunk, int at, in EventRecord record) =>
        record.Mark == EventRecord.UsualMark
        && record.Size > EventRecord.HeadBytes + EventRecord.TailBytes
        && record.Size <= (uint)(chunk.Length - at)
        && BinaryPrimitives.ReadUInt32LittleEndian(chunk.AsSpan(at + (int)record.Size - EventRecord.TailBytes)) == record.Size;

    private static bool IsEmpty(byte[] chunk, int at) => !chunk.AsSpan(at).ContainsAnyExcept((byte)0);

    /// <summary>Where the next whole record begins; the chunk's end where there is none.</summary>
    private static int NextRecord(byte[] chunk, int at)
    {
        const int alignment = 8;
        for (at += alignment; at <= chunk.Length - EventRecord.HeadBytes - EventRecord.TailBytes; at += alignment)
        {
            if (IsWhole(chunk, at, chunk.At<EventRecord>(at))) return at;
        }

        return chunk.Length;
    }
}

using System.IO.Hashing;
using System.Runtime.CompilerServices;
using Keel.Core.Blocks;

namespace Keel.Core.EventLogs;

/// <summary>
/// Writes an event log of the new form (evtx) for practice disks: each event through a template of its own kind, which stands in
/// the chunk where it is used first, with names shared in the chunk.
/// </summary>
internal static class EventLogWriter
{
    private const ushort MajorVersion = 3, MinorVersion = 1;
    private const uint DirtyFlag = 1;

    /// <param name="events">The events, the oldest first.</param>
    /// <param name="computer">The name of the computer.</param>
    /// <param name="firstNumber">The number of the first event.</param>
    /// <param name="isClosed">Whether the log was closed; one of a machine that went dark was not.</param>
    public static byte[] Write(IReadOnlyList<WrittenEvent> events, string computer, ulong firstNumber = 1, bool isClosed = true)
    {
        var chunks = new List<byte[]>();
        var chunk = new EventChunkWriter(computer);
        var number = firstNumber;
        foreach (var logged in events)
        {
            if (!chunk.TryAdd(number, logged))
            {
                chunks.Add(chunk.ToBytes());
                chunk = new EventChunkWriter(computer);
                if (!chunk.TryAdd(number, logged))
                    throw new ArgumentException("An event is longer than a chunk.", nameof(events));
            }

            number++;
        }

        chunks.Add(chunk.ToBytes());
        return [.. Header(chunks.Count, number, isClosed), .. chunks.SelectMany(bytes => bytes)];
    }

    private static byte[] Header(int chunks, ulong next, bool isClosed)
    {
        var block = new byte[EventLogFileRecord.BlockBytes];
        var head = new EventLogFileRecord
        {
            Mark = EventLogFileRecord.UsualMark,
            LastChunk = (ulong)chunks - 1,
            NextNumber = next,
            HeaderBytes = (uint)Unsafe.SizeOf<EventLogFileRecord>(),
            MajorVersion = MajorVersion,
            MinorVersion = MinorVersion,
            BlockSize = EventLogFileRecord.BlockBytes,
            ChunkCount = (ushort)chunks,
            Flags = isClosed ? 0 : DirtyFlag
        };
        block.Put(0, head);
        head.Checksum = Crc32.HashToUInt32(block.AsSpan(0, EventLogFileRecord.SummedBytes));
        block.Put(0, head);
        return block;
    }
}

using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>The log of a VHDX: what was about to be written to its tables, and must be done before they are read.</summary>
internal sealed class VhdxLog
{
    private const int SectorBytes = 4096, LargestBytes = 64 * 1024 * 1024;

    /// <summary>
    /// Checksums are made of so many times the log's length at most; a log that wants more is made to tire a reader.
    /// </summary>
    private const int Budget = 16;

    private readonly byte[] log;
    private readonly Guid id;
    private readonly Dictionary<int, VhdxLogEntryRecord> entries = [];

    private VhdxLog(byte[] log, Guid id)
    {
        this.log = log;
        this.id = id;
        var budget = (long)log.Length * Budget;
        for (var at = 0; at < log.Length; at += SectorBytes)
        {
            if (EntryAt(at, ref budget) is { } entry) entries.Add(at, entry);
        }
    }

    /// <summary>The writes to be done, in their order, and the length that the file has once they are.</summary>
    /// <param name="file">The file.</param>
    /// <param name="header">Its header that counts.</param>
    /// <exception cref="Errors.UnreadableException">The file is shorter than it was when the log was written.</exception>
    public static (IReadOnlyList<VhdxLogWrite> Writes, long FileBytes) Pending(IReadableBlocks file, in VhdxHeaderRecord header)
    {
        if (header.LogId == Guid.Empty) return ([], file.LengthBytes);
        if (header.LogBytes > LargestBytes || header.LogBytes % SectorBytes != 0
            || file.TryRead((long)header.LogAt, (int)header.LogBytes) is not { } bytes)
        {
            throw VirtualDiskErrors.Damaged("VHDX", "its log is not where the header says");
        }

        var log = new VhdxLog(bytes, header.LogId);
        var sequence = log.Active();
        if (sequence.Count == 0) return ([], file.LengthBytes);
        var last = log.entries[sequence[^1]];
        if ((ulong)file.LengthBytes < last.FlushedFileBytes || last.LastFileBytes > long.MaxValue / 2)
            throw VirtualDiskErrors.Damaged("VHDX", "it is cut short: its log was written when it was longer");
        var writes = sequence.SelectMany(log.WritesOf).ToList();
        var end = (long)last.LastFileBytes;
        if (writes.Exists(write => write.Range.End > end))
            throw VirtualDiskErrors.Damaged("VHDX", "its log writes behind its end");
        return (writes, Math.Max(file.LengthBytes, end));
    }

    /// <summary>An entry that writes 4 KiB at places of the file, to stand at the beginning of an empty log.</summary>
    /// <param name="pages">Each place, in bytes and a multiple of 4 KiB, and the 4 KiB.</param>
    /// <param name="id">The name of the log.</param>
    /// <param name="fileBytes">The length of the file.</param>
    public static byte[] EntryOf(IReadOnlyList<(long At, byte[] Bytes)> pages, Guid id, long fileBytes)
    {
        const ulong sequence = 1;
        var descriptors = SectorsFor(pages.Count) * SectorBytes;
        var entry = new byte[descriptors + (pages.Count * SectorBytes)];
        var head = new VhdxLogEntryRecord
        {
            Mark = VhdxLogEntryRecord.MarkValue,
            EntryBytes = (uint)entry.Length,
            Sequence = sequence,
            DescriptorCount = (uint)pages.Count,
            LogId = id,
            FlushedFileBytes = (ulong)fileBytes,
            LastFileBytes = (ulong)fileBytes
        };
        for (var number = 0; number < pages.Count; number++)
        {
            var (at, bytes) = pages[number];
            entry.Put(VhdxLogEntryRecord.Bytes + (number * VhdxLogDescriptorRecord.Bytes), new VhdxLogDescriptorRecord
            {
                Mark = VhdxLogDescriptorRecord.DataMark,
                First = BitConverter.ToUInt64(bytes),
                Last = BitConverter.ToUInt32(bytes, SectorBytes - sizeof(uint)),
                At = (ulong)at,
                Sequence = sequence
            });
            var data = new VhdxLogDataRecord { Mark = VhdxLogDataRecord.MarkValue, SequenceLow = (uint)sequence };
            bytes.AsSpan(VhdxLogDataRecord.MiddleAt, VhdxLogDataRecord.MiddleBytes).CopyTo(data.Middle);
            entry.Put(descriptors + (number * SectorBytes), data);
        }

        entry.Put(0, head);
        head.Checksum = VhdxChecksum.Of(entry, VhdxLogEntryRecord.ChecksumAt);
        entry.Put(0, head);
        return entry;
    }

    private static int SectorsFor(long descriptors) =>
        (int)((VhdxLogEntryRecord.Bytes + (descriptors * VhdxLogDescriptorRecord.Bytes) + SectorBytes - 1) / SectorBytes);

    /// <summary>The entry at a place of the log; null where none stands there, or a torn one.</summary>
    private VhdxLogEntryRecord? EntryAt(int at, ref long budget)
    {
        var entry = log.At<VhdxLogEntryRecord>(at);
        if (entry.Mark != VhdxLogEntryRecord.MarkValue || entry.LogId != id || entry.Sequence == 0) return null;
        if (entry.EntryBytes < SectorBytes || entry.EntryBytes % SectorBytes != 0 || entry.EntryBytes > log.Length)
            return null;
        if (entry.TailAt >= log.Length || entry.TailAt % SectorBytes != 0) return null;
        if (SectorsFor(entry.DescriptorCount) > entry.EntryBytes / SectorBytes) return null;
        budget -= entry.EntryBytes;
        if (budget < 0) throw VirtualDiskErrors.Damaged("VHDX", "the entries of its log lie over each other");
        return VhdxChecksum.Of(Ring(at, (int)entry.EntryBytes), VhdxLogEntryRecord.ChecksumAt) == entry.Checksum ? entry : null;
    }

    /// <summary>The places of the entries to be replayed: the newest whole run from a tail to its head; empty for none.</summary>
    private List<int> Active()
    {
        foreach (var (headAt, head) in entries.OrderByDescending(entry => entry.Value.Sequence))
        {
            var run = new List<int>();
            var at = (int)head.TailAt;
            ulong? expected = null;
            while (run.Count < entries.Count && entries.TryGetValue(at, out var entry))
            {
                if (expected is { } number && entry.Sequence != number) break;
                run.Add(at);
                if (at == headAt) return run;
                expected = entry.Sequence + 1;
                at = (int)((at + (long)entry.EntryBytes) % log.Length);
            }
        }

        return [];
    }

    private IEnumerable<VhdxLogWrite> WritesOf(int at)
    {
        var head = entries[at];
        var bytes = Ring(at, (int)head.EntryBytes);
        var dataAt = SectorsFor(head.DescriptorCount) * SectorBytes;
        for (var number = 0; number < head.DescriptorCount; number++)
        {
            var place = VhdxLogEntryRecord.Bytes + (number * VhdxLogDescriptorRecord.Bytes);
            var descriptor = bytes.At<VhdxLogDescriptorRecord>(place);
            if (descriptor.At > long.MaxValue / 2 || descriptor.Sequence != head.Sequence) throw BadDescriptor();
            if (descriptor.Mark == VhdxLogDescriptorRecord.ZeroMark)
            {
                if (descriptor.First > long.MaxValue / 2) throw BadDescriptor();
                yield return new VhdxLogWrite(new ByteRange((long)descriptor.At, (long)descriptor.First), Bytes: null);
                continue;
            }

            if (descriptor.Mark != VhdxLogDescriptorRecord.DataMark || dataAt + SectorBytes > bytes.Length) throw BadDescriptor();
            yield return new VhdxLogWrite(new ByteRange((long)descriptor.At, SectorBytes), Page(bytes, dataAt, descriptor));
            dataAt += SectorBytes;
        }
    }

    private static byte[] Page(byte[] bytes, int dataAt, in VhdxLogDescriptorRecord descriptor)
    {
        var data = bytes.At<VhdxLogDataRecord>(dataAt);
        var sequence = ((ulong)data.SequenceHigh << 32) | data.SequenceLow;
        if (data.Mark != VhdxLogDataRecord.MarkValue || sequence != descriptor.Sequence) throw BadDescriptor();
        var page = new byte[SectorBytes];
        MemoryMarshal.Write(page, descriptor.First);
        ((ReadOnlySpan<byte>)data.Middle).CopyTo(page.AsSpan(VhdxLogDataRecord.MiddleAt));
        MemoryMarshal.Write(page.AsSpan(SectorBytes - sizeof(uint)), descriptor.Last);
        return page;
    }

    /// <summary>Bytes of the log, which goes on at its beginning.</summary>
    private byte[] Ring(int at, int count)
    {
        var bytes = new byte[count];
        var first = Math.Min(count, log.Length - at);
        log.AsSpan(at, first).CopyTo(bytes);
        log.AsSpan(0, count - first).CopyTo(bytes.AsSpan(first));
        return bytes;
    }

    private static Errors.UnreadableException BadDescriptor() =>
        VirtualDiskErrors.Damaged("VHDX", "an entry of its log says what can't be");
}

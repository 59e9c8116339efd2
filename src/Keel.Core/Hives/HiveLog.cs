using System.Runtime.CompilerServices;
using Keel.Core.Blocks;

namespace Keel.Core.Hives;

/// <summary>
/// Applies the logs of a hive whose last write was cut off: the old form (one .LOG) and the new one (.LOG1, .LOG2).
/// </summary>
/// <remarks>Layouts as in the published notes on the regf format: "DIRT" with a bitmap of 512-byte pages; "HvLE" entries with
///     Marvin32 hashes.</remarks>
public static class HiveLog
{
    private const int PageBytes = 512, BinBytes = 4096;
    private static readonly int EntryHeaderBytes = Unsafe.SizeOf<HiveLogEntryRecord>();
    private static readonly int ReferenceBytes = Unsafe.SizeOf<HiveLogPageRecord>();
    private const int LargestBins = 512 * 1024 * 1024, ResizeLimit = 16;

    /// <summary>The hive with what its logs hold, clean; null where no log has anything for it.</summary>
    public static byte[]? Apply(byte[] hive, IEnumerable<byte[]> logs)
    {
        var header = HiveHeader.TryRead(hive);
        foreach (var log in logs
            .Where(log => log.Length > PageBytes)
            .OrderByDescending(log => HiveHeader.TryRead(log)?.PrimarySequence ?? 0))
        {
            if (HiveHeader.TryRead(log) is not { ChecksumMatches: true } logHeader) continue;
            var applied = log.AsSpan(PageBytes).StartsWith("DIRT"u8)
                ? ApplyOld(hive, log, logHeader)
                : ApplyNew(hive, log, header, logHeader);
            if (applied is not null) return applied;
        }

        return null;
    }

    /// <summary>A log of the old form that holds these pages of a hive.</summary>
    /// <param name="hive">The bytes of the hive.</param>
    /// <param name="pages">Numbers of 512-byte pages, counted from the end of the base block, rising.</param>
    internal static byte[] WriteOld(byte[] hive, IReadOnlyList<int> pages)
    {
        var header = HiveHeader.TryRead(hive)!;
        var bitmapAt = PageBytes + 4;
        var at = (bitmapAt + (int)(((header.BinsBytes / PageBytes) + 7) / 8) + PageBytes - 1) / PageBytes * PageBytes;
        var log = new byte[at + (pages.Count * PageBytes)];
        hive.AsSpan(0, PageBytes).CopyTo(log);
        "DIRT"u8.CopyTo(log.AsSpan(PageBytes));
        foreach (var page in pages)
        {
            log[bitmapAt + (page / 8)] |= (byte)(1 << (page % 8));
            hive.AsSpan(HiveHeader.Size + (page * PageBytes), PageBytes).CopyTo(log.AsSpan(at));
            at += PageBytes;
        }

        return log;
    }

    /// <summary>A log of the new form, one entry with these pages.</summary>
    internal static byte[] WriteNew(byte[] hive, uint sequence, IReadOnlyList<int> pages)
    {
        var header = HiveHeader.TryRead(hive)!;
        var size = (EntryHeaderBytes + (pages.Count * (ReferenceBytes + PageBytes)) + PageBytes - 1) / PageBytes * PageBytes;
        var log = new byte[PageBytes + size];
        hive.AsSpan(0, PageBytes).CopyTo(log);
        var entry = log.AsSpan(PageBytes);
        for (var index = 0; index < pages.Count; index++)
        {
            var page = new HiveLogPageRecord { Offset = (uint)(pages[index] * PageBytes), Size = PageBytes };
            entry.Put(EntryHeaderBytes + (index * ReferenceBytes), page);
            hive
                .AsSpan(HiveHeader.Size + (pages[index] * PageBytes), PageBytes)
                .CopyTo(entry[(EntryHeaderBytes + (pages.Count * ReferenceBytes) + (index * PageBytes))..]);
        }

        var record = new HiveLogEntryRecord
        {
            Mark = HiveLogEntryRecord.UsualMark,
            Size = (uint)size,
            Sequence = sequence,
            BinsBytes = header.BinsBytes,
            PageCount = (uint)pages.Count,
            FirstHash = Marvin32.Hash(entry[EntryHeaderBytes..])
        };
        entry.Put(0, record);
        record.SecondHash = Marvin32.Hash(entry[..HiveLogEntryRecord.HashedBytes]);
        entry.Put(0, record);
        return log;
    }

    /// <summary>A bitmap of pages, then the pages.</summary>
    private static byte[]? ApplyOld(byte[] hive, byte[] log, HiveHeader logHeader)
    {
        if (logHeader.BinsBytes is 0 or > LargestBins || logHeader.PrimarySequence != logHeader.SecondarySequence) return null;
        var pages = (int)(logHeader.BinsBytes / PageBytes);
        var bitmapAt = PageBytes + 4;
        var at = (bitmapAt + ((pages + 7) / 8) + PageBytes - 1) / PageBytes * PageBytes;
        var result = Resized(hive, logHeader.BinsBytes);
        for (var page = 0; page < pages; page++)
        {
            if (bitmapAt + (page / 8) >= log.Length) return null;
            if ((log[bitmapAt + (page / 8)] >> (page % 8) & 1) == 0) continue;
            if (at + PageBytes > log.Length) return null;
            log.AsSpan(at, PageBytes).CopyTo(result.AsSpan(HiveHeader.Size + (page * PageBytes)));
            at += PageBytes;
        }

        return Clean(result, logHeader, logHeader.PrimarySequence, logHeader.BinsBytes);
    }

    /// <summary>Entries one after another, each the next sequence number.</summary>
    private static byte[]? ApplyNew(byte[] hive, byte[] log, HiveHeader? header, HiveHeader logHeader)
    {
        byte[]? result = null;
        var expected = header is { ChecksumMatches: true } ? header.SecondarySequence : logHeader.PrimarySequence;
        uint? last = null;
        var resized = 0;
        var bins = logHeader.BinsBytes;
        for (var at = PageBytes; EntryAt(log, at) is { } record; at += (int)record.Size)
        {
            var entry = log.AsSpan(at, (int)record.Size);
            if (!IsWhole(entry, record) || (last is { } before && record.Sequence != before + 1)) break;
            if (record.Sequence < expected) continue;
            bins = record.BinsBytes;
            if (bins is 0 or > LargestBins || bins % BinBytes != 0) break;
            if (result is null || result.Length != HiveHeader.Size + bins)
            {
                if (++resized > ResizeLimit) break;             // each one copies the whole hive
                result = Resized(result ?? hive, bins);
            }

            if (!CopyPages(entry, record.PageCount, result)) return null;
            last = record.Sequence;
        }

        return result is null ? null : Clean(result, header ?? logHeader, last!.Value + 1, bins);
    }

    /// <summary>The entry that begins at a place; null where there is none, or it does not fit the log.</summary>
    private static HiveLogEntryRecord? EntryAt(ReadOnlySpan<byte> log, int at)
    {
        if (at + EntryHeaderBytes > log.Length) return null;
        var record = log.At<HiveLogEntryRecord>(at);
        return record.Mark == HiveLogEntryRecord.UsualMark
            && record.Size >= EntryHeaderBytes
            && record.Size % PageBytes == 0
            && record.Size <= log.Length - at
            ? record
            : null;
    }

    private static bool CopyPages(ReadOnlySpan<byte> entry, uint count, byte[] result)
    {
        var data = EntryHeaderBytes + (count * (long)ReferenceBytes);
        for (var index = 0; index < count && data <= entry.Length; index++)
        {
            var page = entry.At<HiveLogPageRecord>(EntryHeaderBytes + (index * ReferenceBytes));
            if (data + page.Size > entry.Length || HiveHeader.Size + (long)page.Offset + page.Size > result.Length) return false;
            entry.Slice((int)data, (int)page.Size).CopyTo(result.AsSpan(HiveHeader.Size + (int)page.Offset));
            data += page.Size;
        }

        return data <= entry.Length;
    }

    private static bool IsWhole(ReadOnlySpan<byte> entry, in HiveLogEntryRecord record) =>
        Marvin32.Hash(entry[EntryHeaderBytes..]) == record.FirstHash
        && Marvin32.Hash(entry[..HiveLogEntryRecord.HashedBytes]) == record.SecondHash;

    private static byte[] Resized(byte[] hive, uint binsBytes)
    {
        var result = new byte[HiveHeader.Size + binsBytes];
        hive.AsSpan(0, Math.Min(hive.Length, result.Length)).CopyTo(result);
        return result;
    }

    private static byte[] Clean(byte[] hive, HiveHeader header, uint sequence, uint binsBytes)
    {
        (header with { PrimarySequence = sequence, SecondarySequence = sequence, BinsBytes = binsBytes }).Write(hive);
        return hive;
    }
}

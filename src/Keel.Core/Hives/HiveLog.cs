using System.Buffers.Binary;

namespace Keel.Core.Hives;

/// <summary>
/// Applies the logs of a hive whose last write was cut off: the old form (one .LOG) and the new one (.LOG1, .LOG2).
/// </summary>
/// <remarks>Layouts as in the published notes on the regf format: "DIRT" with a bitmap of 512-byte pages; "HvLE" entries with
///     Marvin32 hashes.</remarks>
public static class HiveLog
{
    private const int PageBytes = 512, EntryHeaderBytes = 40, ReferenceBytes = 8;

    private const int EntrySizeAt =
        4, EntrySequenceAt = 12, EntryBinsAt = 16, EntryCountAt = 20, FirstHashAt = 24, SecondHashAt = 32;

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
        "HvLE"u8.CopyTo(entry);
        BinaryPrimitives.WriteUInt32LittleEndian(entry[EntrySizeAt..], (uint)size);
        BinaryPrimitives.WriteUInt32LittleEndian(entry[EntrySequenceAt..], sequence);
        BinaryPrimitives.WriteUInt32LittleEndian(entry[EntryBinsAt..], header.BinsBytes);
        BinaryPrimitives.WriteUInt32LittleEndian(entry[EntryCountAt..], (uint)pages.Count);
        for (var index = 0; index < pages.Count; index++)
        {
            BinaryPrimitives.WriteUInt32LittleEndian(
                entry[(EntryHeaderBytes + (index * ReferenceBytes))..],
                (uint)(pages[index] * PageBytes));
            BinaryPrimitives.WriteUInt32LittleEndian(entry[(EntryHeaderBytes + (index * ReferenceBytes) + 4)..], PageBytes);
            hive
                .AsSpan(HiveHeader.Size + (pages[index] * PageBytes), PageBytes)
                .CopyTo(entry[(EntryHeaderBytes + (pages.Count * ReferenceBytes) + (index * PageBytes))..]);
        }

        BinaryPrimitives.WriteUInt64LittleEndian(entry[FirstHashAt..], Marvin32.Hash(entry[EntryHeaderBytes..]));
        BinaryPrimitives.WriteUInt64LittleEndian(entry[SecondHashAt..], Marvin32.Hash(entry[..SecondHashAt]));
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
        for (var at = PageBytes; at + EntryHeaderBytes <= log.Length && log.AsSpan(at).StartsWith("HvLE"u8);)
        {
            var size = Number(log, at + EntrySizeAt);
            if (size < EntryHeaderBytes || size % PageBytes != 0 || size > log.Length - at) break;
            var entry = log.AsSpan(at, (int)size);
            var sequence = Number(log, at + EntrySequenceAt);
            if (!IsWhole(entry) || (last is { } before && sequence != before + 1)) break;
            if (sequence >= expected)
            {
                bins = Number(log, at + EntryBinsAt);
                if (bins is 0 or > LargestBins || bins % 4096 != 0) break;
                if (result is null || result.Length != HiveHeader.Size + bins)
                {
                    if (++resized > ResizeLimit) break;         // each one copies the whole hive
                    result = Resized(result ?? hive, bins);
                }

                if (!CopyPages(entry, result)) return null;
                last = sequence;
            }

            at += (int)size;
        }

        return result is null ? null : Clean(result, header ?? logHeader, last!.Value + 1, bins);
    }

    private static bool CopyPages(ReadOnlySpan<byte> entry, byte[] result)
    {
        var count = BinaryPrimitives.ReadUInt32LittleEndian(entry[EntryCountAt..]);
        var data = EntryHeaderBytes + (count * (long)ReferenceBytes);
        for (var index = 0; index < count && data <= entry.Length; index++)
        {
            var reference = entry[(EntryHeaderBytes + (index * ReferenceBytes))..];
            long offset =
                BinaryPrimitives.ReadUInt32LittleEndian(
                    reference), size = BinaryPrimitives.ReadUInt32LittleEndian(reference[4..]);
            if (data + size > entry.Length || HiveHeader.Size + offset + size > result.Length) return false;
            entry.Slice((int)data, (int)size).CopyTo(result.AsSpan(HiveHeader.Size + (int)offset));
            data += size;
        }

        return data <= entry.Length;
    }

    private static bool IsWhole(ReadOnlySpan<byte> entry) =>
        Marvin32.Hash(entry[EntryHeaderBytes..]) == BinaryPrimitives.ReadUInt64LittleEndian(entry[FirstHashAt..])
        && Marvin32.Hash(entry[..SecondHashAt]) == BinaryPrimitives.ReadUInt64LittleEndian(entry[SecondHashAt..]);

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

    private static uint Number(byte[] log, int at) => BinaryPrimitives.ReadUInt32LittleEndian(log.AsSpan(at));
}

using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Disks.Virtual;

/// <summary>What a VHD says of itself, read and checked.</summary>
/// <param name="Footer">Its footer, or the copy at its beginning.</param>
/// <param name="FooterAt">Where the footer stands, or belongs, in bytes.</param>
/// <param name="Header">What it says of its blocks; null for a fixed disk.</param>
internal sealed record VhdContents(VhdFooterRecord Footer, long FooterAt, VhdHeaderRecord? Header)
{
    private const int SectorBytes = 512, FooterChecksumAt = 64, HeaderChecksumAt = 36;
    private const uint LargestBlockBytes = 256 * 1024 * 1024;

    /// <summary>The length of the disk in bytes.</summary>
    public long DiskBytes => (long)Footer.DiskBytes.Value;

    /// <summary>Whether it holds only what differs from another disk.</summary>
    public bool IsDifferencing => Footer.DiskType.Value == VhdFooterRecord.Differencing;

    /// <summary>Whether a footer's mark stands at either end of a file.</summary>
    public static bool IsIn(IReadableBlocks file) =>
        IsMarkAt(file, 0) || IsMarkAt(file, file.LengthBytes - VhdFooterRecord.Bytes);

    /// <summary>Reads what a file says of itself.</summary>
    /// <exception cref="UnreadableException">It is none, or so damaged that its bytes can't be placed; says what.</exception>
    public static VhdContents Read(IReadableBlocks file)
    {
        var end = file.LengthBytes - VhdFooterRecord.Bytes;
        var last = FooterAtPlace(file, end);
        var first = FooterAtPlace(file, 0);
        if ((last ?? first) is not { } footer) throw Damaged("neither of its two footers is whole");
        var footerAt = last is null ? file.LengthBytes / SectorBytes * SectorBytes : end;
        var bytes = footer.DiskBytes.Value;
        if (bytes is 0 or > long.MaxValue / 2 || bytes % SectorBytes != 0)
            throw Damaged($"it claims to be a disk of {bytes} bytes");
        if (footer.DiskType.Value == VhdFooterRecord.Fixed)
        {
            return last is not null && footerAt >= (long)bytes
                ? new VhdContents(footer, footerAt, Header: null)
                : throw Damaged($"it is cut short: a disk of {bytes} bytes in a file of {file.LengthBytes}");
        }

        if (footer.DiskType.Value is not (VhdFooterRecord.Dynamic or VhdFooterRecord.Differencing))
            throw Damaged($"it is of a kind that nobody knows, {footer.DiskType.Value}");
        return new VhdContents(footer, footerAt, HeaderOf(file, footer));
    }

    private static VhdHeaderRecord HeaderOf(IReadableBlocks file, in VhdFooterRecord footer)
    {
        const int entryBytes = sizeof(uint);
        if (file.TryRead((long)footer.HeaderAt.Value, VhdHeaderRecord.Bytes) is not { } bytes
            || !bytes.AsSpan().StartsWith(VhdHeaderRecord.MarkBytes))
        {
            throw Damaged("the header of its blocks is not where the footer says");
        }

        var header = bytes.At<VhdHeaderRecord>(0);
        if (VhdChecksum.Of(bytes, HeaderChecksumAt) != header.Checksum.Value)
            throw Damaged("the header of its blocks has another checksum than it says");
        var block = header.BlockBytes.Value;
        if (block is < SectorBytes or > LargestBlockBytes || !uint.IsPow2(block))
            throw Damaged($"it claims blocks of {block} bytes");
        var needed = (footer.DiskBytes.Value + block - 1) / block;
        if (header.TableEntries.Value < needed)
            throw Damaged($"its table has {header.TableEntries.Value} blocks, and {needed} are needed");
        var tableAt = header.TableAt.Value;
        if (tableAt > (ulong)file.LengthBytes || needed * entryBytes > (ulong)file.LengthBytes - tableAt)
            throw Damaged("its table lies behind its end: it is cut short");
        return header;
    }

    private static VhdFooterRecord? FooterAtPlace(IReadableBlocks file, long at) =>
        file.TryRead(at, VhdFooterRecord.Bytes) is { } bytes
            && bytes.AsSpan().StartsWith(VhdFooterRecord.MarkBytes)
            && bytes.At<VhdFooterRecord>(0) is var footer
            && VhdChecksum.Of(bytes, FooterChecksumAt) == footer.Checksum.Value
            ? footer
            : null;

    private static bool IsMarkAt(IReadableBlocks file, long at) =>
        file.TryReadAnyway(at, VhdFooterRecord.MarkBytes.Length) is { } bytes
            && bytes.AsSpan().SequenceEqual(VhdFooterRecord.MarkBytes);

    private static UnreadableException Damaged(string why) => VirtualDiskErrors.Damaged("VHD", why);
}

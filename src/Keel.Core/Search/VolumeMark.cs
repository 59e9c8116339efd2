using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Volumes.BitLocker;

namespace Keel.Core.Search;

/// <summary>By what bytes a file system of another system, or an encrypted volume, is known.</summary>
/// <param name="Name">What it is called.</param>
/// <param name="MarkAt">Where its mark stands, in bytes from the volume's start.</param>
/// <param name="Mark">The mark.</param>
/// <param name="SizeOf">Its size in bytes, from the disk and where the volume begins: 0 where it does not tell it, null where it
///     is none after all.</param>
internal sealed record VolumeMark(string Name, int MarkAt, byte[] Mark, Func<IReadableBlocks, long, long?> SizeOf)
{
    /// <summary>Those that are known, each from its own published layout.</summary>
    public static IReadOnlyList<VolumeMark> All { get; } =
    [
        new("ext", 0x438, [0x53, 0xEF], SizeOfExt),
        new("XFS", 0, [.. "XFSB"u8], SizeOfXfs),
        new("Btrfs", 0x10040, [.. "_BHRfS_M"u8], (disk, start) => Number64(disk, start + 0x10070)),
        new("LUKS", 0, [.. "LUKS"u8, 0xBA, 0xBE], (_, _) => 0),
        new("LVM", 0x218, [.. "LVM2 001"u8], (disk, start) => Number64(disk, start + 0x240)),
        new("Linux swap", 0xFF6, [.. "SWAPSPACE2"u8], SizeOfSwap),
        new("APFS", 0x20, [.. "NXSB"u8], SizeOfApfs),
        new("HFS+", 0x400, [(byte)'H', (byte)'+', 0, 4], SizeOfHfs),
        new("BitLocker", 3, [.. "-FVE-FS-"u8], SizeOfBitLocker),
        new("ReFS", 3, [.. "ReFS\0\0\0\0"u8], SizeOfRefs)
    ];

    private static long? SizeOfExt(IReadableBlocks disk, long start)
    {
        const int superblock = 0x400, sizeBytes = 0x60, largestShift = 6;
        const int blocksAt = 4, freeAt = 0x0C, shiftAt = 0x18, groupAt = 0x5A;
        if (disk.TryReadAnyway(start + superblock, sizeBytes) is not { } bytes) return null;
        var blocks = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(blocksAt));
        var free = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(freeAt));
        var shift = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(shiftAt));
        var group = BinaryPrimitives.ReadUInt16LittleEndian(bytes.AsSpan(groupAt));
        return shift <= largestShift && blocks > 0 && free <= blocks && group == 0 ? (long)blocks * (1024 << (int)shift) : null;
    }

    private static long? SizeOfXfs(IReadableBlocks disk, long start)
    {
        if (disk.TryReadAnyway(start, 16) is not { } bytes) return null;
        var block = BinaryPrimitives.ReadUInt32BigEndian(bytes.AsSpan(4));
        var count = BinaryPrimitives.ReadInt64BigEndian(bytes.AsSpan(8));
        return Product(count, block);
    }

    private static long? SizeOfSwap(IReadableBlocks disk, long start)
    {
        const int pageBytes = 4096;
        return disk.TryReadAnyway(start + 0x404, sizeof(uint)) is { } bytes
            ? (BinaryPrimitives.ReadUInt32LittleEndian(bytes) + 1L) * pageBytes
            : null;
    }

    private static long? SizeOfApfs(IReadableBlocks disk, long start) =>
        disk.TryReadAnyway(start + 0x24, 12) is { } bytes
            ? Product(
                BinaryPrimitives.ReadInt64LittleEndian(bytes.AsSpan(4)),
                BinaryPrimitives.ReadUInt32LittleEndian(bytes))
            : null;

    private static long? SizeOfHfs(IReadableBlocks disk, long start) =>
        disk.TryReadAnyway(start + 0x428, 8) is { } bytes
            ? Product(BinaryPrimitives.ReadUInt32BigEndian(bytes.AsSpan(4)), BinaryPrimitives.ReadUInt32BigEndian(bytes))
            : null;

    /// <summary>
    /// Its metadata say it. Where none are whole: since Windows 7 it may keep the count of its sectors where NTFS does.
    /// </summary>
    private static long? SizeOfBitLocker(IReadableBlocks disk, long start)
    {
        if (EncryptionReader.TryRead(new ReadableSlice(disk, start)) is { EncryptedBytes: > 0 and var encrypted })
            return encrypted;
        if (disk.TryReadAnyway(start, 0x30) is not { } bytes) return null;
        var sectorBytes = BinaryPrimitives.ReadUInt16LittleEndian(bytes.AsSpan(0x0B));
        var sectors = BinaryPrimitives.ReadInt64LittleEndian(bytes.AsSpan(0x28));
        if (sectorBytes is not (512 or 1024 or 2048 or 4096)) return null;
        return sectors > 0 && Product(sectors + 1, sectorBytes) is { } size ? size : 0;
    }

    private static long? SizeOfRefs(IReadableBlocks disk, long start) =>
        disk.TryReadAnyway(start + 0x18, 12) is { } bytes
            ? Product(
                BinaryPrimitives.ReadInt64LittleEndian(bytes),
                BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(8)))
            : null;

    private static long? Number64(IReadableBlocks disk, long at) =>
        disk.TryReadAnyway(at, sizeof(long)) is { } bytes
            && BinaryPrimitives.ReadInt64LittleEndian(bytes) is > 0 and var size
            ? size
            : null;

    /// <summary>A count of units in bytes; null where the numbers are absurd.</summary>
    private static long? Product(long count, uint unitBytes)
    {
        const uint largestUnit = 1024 * 1024;
        return count > 0 && unitBytes is >= 512 and <= largestUnit && uint.IsPow2(unitBytes) && count <= long.MaxValue / unitBytes
            ? count * unitBytes
            : null;
    }
}

using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Volumes;

/// <summary>A field of a boot sector that a file system can't be read without, or that says where something stands.</summary>
/// <param name="Name">What people call it.</param>
/// <param name="At">Where it begins, in bytes.</param>
/// <param name="Bytes">How many bytes it has.</param>
/// <param name="IsVital">Whether a volume is misread where it is wrong.</param>
internal sealed record BootSectorField(string Name, int At, int Bytes, bool IsVital = true)
{
    /// <summary>The pointers to $MFT and its mirror are judged by those themselves (<see cref="NtfsMirror"/>).</summary>
    public static IReadOnlyList<BootSectorField> OfNtfs { get; } =
    [
        new("bytes per sector", 0x0B, 2),
        new("sectors per cluster", 0x0D, 1),
        new("media", 0x15, 1, IsVital: false),
        new("total sectors", 0x28, 8),
        new("$MFT", 0x30, 8, IsVital: false),
        new("$MFT mirror", 0x38, 8, IsVital: false),
        new("file record size", 0x40, 1),
        new("index block size", 0x44, 1)
    ];

    /// <summary>FAT32 (Microsoft FAT specification 1.03): the only FAT with a backup copy.</summary>
    public static IReadOnlyList<BootSectorField> OfFat32 { get; } =
    [
        new("bytes per sector", 0x0B, 2),
        new("sectors per cluster", 0x0D, 1),
        new("reserved sectors", 0x0E, 2),
        new("number of tables", 0x10, 1),
        new("root entries", 0x11, 2),
        new("total sectors (16 bits)", 0x13, 2),
        new("media", 0x15, 1, IsVital: false),
        new("sectors per table (16 bits)", 0x16, 2),
        new("total sectors", 0x20, 4),
        new("sectors per table", 0x24, 4),
        new("flags", 0x28, 2),
        new("version", 0x2A, 2),
        new("root cluster", 0x2C, 4),
        new("information sector", 0x30, 2, IsVital: false),
        new("backup sector", 0x32, 2, IsVital: false)
    ];

    /// <summary>Whether two sectors agree on it.</summary>
    public bool IsSame(ReadOnlySpan<byte> one, ReadOnlySpan<byte> other) =>
        one.Slice(At, Bytes).SequenceEqual(other.Slice(At, Bytes));

    /// <summary>Takes it over from another sector.</summary>
    public void Copy(ReadOnlySpan<byte> from, Span<byte> to) => from.Slice(At, Bytes).CopyTo(to[At..]);
}

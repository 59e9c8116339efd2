using System.Buffers.Binary;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>The first sector of an encrypted volume (layout as published with libbde and cryptsetup).</summary>
/// <param name="IsToGo">Whether it is of the form for removable disks, which begins as a FAT volume does.</param>
/// <param name="IsOnWrite">Whether only what is written is encrypted.</param>
/// <param name="MetadataAt">Where the three blocks of metadata begin, in bytes from the volume's start.</param>
internal sealed record EncryptionHeader(bool IsToGo, bool IsOnWrite, IReadOnlyList<long> MetadataAt)
{
    /// <summary>How many bytes of the sector say it.</summary>
    public const int Bytes = 512;

    private const int MarkAt = 3, IdAt = 0xA0, ToGoIdAt = 0x1A8, IdBytes = 16;

    private static readonly Guid Usual = new("4967D63B-2E29-4AD8-8399-F6A339E3D001");
    private static readonly Guid OnWrite = new("92A84D3B-DD80-4D0E-9E4E-B1E3284EAED8");

    /// <summary>What the sector and every block of metadata begin with.</summary>
    public static ReadOnlySpan<byte> Mark => "-FVE-FS-"u8;

    /// <summary>The places; null where the volume does not begin as an encrypted one.</summary>
    public static EncryptionHeader? TryRead(ReadOnlySpan<byte> sector)
    {
        if (sector.Length < Bytes) return null;
        var isUsual = sector[MarkAt..].StartsWith(Mark);
        if (!isUsual && IdOf(sector, ToGoIdAt) != Usual) return null;
        var idAt = isUsual ? IdAt : ToGoIdAt;
        var places = new long[EncryptionFacts.BlockCount];
        for (var number = 0; number < places.Length; number++)
            places[number] = BinaryPrimitives.ReadInt64LittleEndian(sector[(idAt + IdBytes + (number * sizeof(long)))..]);
        return new EncryptionHeader(!isUsual, IdOf(sector, idAt) == OnWrite, places);
    }

    private static Guid IdOf(ReadOnlySpan<byte> sector, int at) => new(sector.Slice(at, IdBytes));
}

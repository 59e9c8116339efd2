using System.Buffers.Binary;
using Keel.Core.Blocks;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>What lies where on an encrypted volume.</summary>
/// <param name="Head">The beginning of the plain volume, in the plain volume.</param>
/// <param name="MovedAt">Where it lies instead, in bytes.</param>
/// <param name="EncryptedBytes">How much of the volume is encrypted; what follows is plain.</param>
/// <param name="Hidden">The metadata, and the moved beginning: nothing of the plain volume lies there.</param>
internal sealed record EncryptedPlaces(ByteRange Head, long MovedAt, long EncryptedBytes, IReadOnlyList<ByteRange> Hidden)
{
    private const ushort MovedHead = 0xF;
    private const long MostHeadBytes = 256L * 1024 * 1024;

    /// <summary>The places that metadata name; null where they make no sense.</summary>
    /// <param name="metadata">The metadata.</param>
    /// <param name="lengthBytes">The length of the volume.</param>
    /// <param name="sectorBytes">Its sector size.</param>
    public static EncryptedPlaces? Of(EncryptionMetadata metadata, long lengthBytes, int sectorBytes)
    {
        var (movedAt, headBytes) = HeadOf(metadata, sectorBytes);
        if (headBytes <= 0 || headBytes > MostHeadBytes || headBytes % sectorBytes != 0) return null;
        var moved = new ByteRange(movedAt, headBytes);
        ByteRange[] hidden =
        [
            .. metadata.Places.Select(at => new ByteRange(at, EncryptionMetadata.RegionBytes)),
            moved
        ];
        var fits = hidden.All(range => range.Start > 0 && range.Start % sectorBytes == 0
            && range.Start <= lengthBytes - range.Length);
        if (!fits || metadata.EncryptedBytes <= 0 || metadata.EncryptedBytes % sectorBytes != 0) return null;
        var head = new ByteRange(0, headBytes);
        return hidden.Any(range => range.Overlaps(head))
            ? null
            : new EncryptedPlaces(head, movedAt, metadata.EncryptedBytes, [.. hidden.OrderBy(range => range.Start)]);
    }

    /// <summary>An entry of its own says it, or the head of the metadata where there is none such.</summary>
    private static (long At, long Bytes) HeadOf(EncryptionMetadata metadata, int sectorBytes)
    {
        const int needed = 16;
        var entry = metadata.Entries.FirstOrDefault(one =>
            one is { What: MovedHead, Form: MovedHead } && one.Data.Length >= needed);
        return entry.Data.Length >= needed
            ? (BinaryPrimitives.ReadInt64LittleEndian(entry.Data.Span),
                BinaryPrimitives.ReadInt64LittleEndian(entry.Data.Span[sizeof(long)..]))
            : (metadata.MovedAt, (long)metadata.HeadSectors * sectorBytes);
    }
}

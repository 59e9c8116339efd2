using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>
/// One of the three blocks of metadata: a head, a second head behind it, the entries, and a check. All three say the same; where
/// one is torn, another is taken.
/// </summary>
internal sealed class EncryptionMetadata
{
    /// <summary>What a block takes on the volume, whatever its length: it reads as zeros once unlocked.</summary>
    public const int RegionBytes = 64 * 1024;

    /// <summary>What both states say of a volume that is wholly encrypted.</summary>
    public const ushort Encrypted = 4;

    private const int HeadBytes = 64, InnerBytes = 48, EntriesAt = HeadBytes + InnerBytes;
    private const int LengthAt = 8, StateAt = 0x0C, NextStateAt = 0x0E, SizeAt = 0x10, HeadSectorsAt = 0x1C, PlacesAt = 0x20;
    private const int MovedAtAt = 0x38, IdAt = HeadBytes + 16, NonceAt = HeadBytes + 32, MethodAt = HeadBytes + 36;
    private const int TimeAt = HeadBytes + 40, LengthUnit = 16, MostBytes = 256 * 1024, CheckHeadBytes = 4;

    private readonly byte[] block;

    private EncryptionMetadata(int number, byte[] block)
    {
        Number = number;
        this.block = block;
    }

    /// <summary>Which of the three it is, from 1.</summary>
    public int Number { get; }

    /// <summary>The state now, and the one that it is going to.</summary>
    public ushort State => Short(StateAt);

    /// <inheritdoc cref="State"/>
    public ushort NextState => Short(NextStateAt);

    /// <summary>How much of the volume is encrypted, in bytes.</summary>
    public long EncryptedBytes => Long(SizeAt);

    /// <summary>How many sectors of the plain volume's beginning lie elsewhere.</summary>
    public uint HeadSectors => BinaryPrimitives.ReadUInt32LittleEndian(block.AsSpan(HeadSectorsAt));

    /// <summary>Where they lie, in bytes from the volume's start.</summary>
    public long MovedAt => Long(MovedAtAt);

    /// <summary>Where the three blocks begin, by this one.</summary>
    public IReadOnlyList<long> Places => [.. Enumerable.Range(0, EncryptionFacts.BlockCount)
        .Select(number => Long(PlacesAt + (number * sizeof(long))))];

    public Guid VolumeId => new(block.AsSpan(IdAt, 16));

    public ushort Method => Short(MethodAt);

    /// <summary>When the volume was encrypted; null where that makes no sense.</summary>
    public DateTimeOffset? Time => TimeOf(Long(TimeAt));

    /// <summary>The entries of the block.</summary>
    public IEnumerable<KeyEntry> Entries
    {
        get
        {
            var size = BinaryPrimitives.ReadInt32LittleEndian(block.AsSpan(HeadBytes));
            var end = Math.Min(block.Length, HeadBytes + Math.Clamp(size, InnerBytes, MostBytes));
            return KeyEntry.In(block.AsMemory(EntriesAt, Math.Max(0, end - EntriesAt)));
        }
    }

    /// <summary>What seals the keys, as a word to know it again by.</summary>
    public string Seal => Convert.ToHexString(Sha256Sum.Of(block));

    /// <summary>Counts with every change, so the youngest has the highest.</summary>
    private uint Nonce => BinaryPrimitives.ReadUInt32LittleEndian(block.AsSpan(NonceAt));

    /// <summary>The blocks whose check holds, the youngest first.</summary>
    /// <exception cref="ReadFailedException">The disk gives none of them.</exception>
    public static IReadOnlyList<EncryptionMetadata> ReadAll(IReadableBlocks volume, EncryptionHeader header)
    {
        var found = new List<EncryptionMetadata>();
        ReadFailedException? failure = null;
        foreach (var (number, at) in header.MetadataAt.Index())
        {
            try
            {
                if (BlockAt(volume, at) is { } bytes) found.Add(new EncryptionMetadata(number + 1, bytes));
            }
            catch (ReadFailedException e)
            {
                failure = e;        // the other blocks say the same
            }
        }

        return found.Count == 0 && failure is not null
            ? throw failure
            : [.. found.OrderByDescending(block => block.Nonce).ThenBy(block => block.Number)];
    }

    /// <summary>A time of the metadata; null where it makes no sense.</summary>
    public static DateTimeOffset? TimeOf(long fileTime) => fileTime > 0 && fileTime < DateTimeOffset.MaxValue.ToFileTime()
        ? DateTimeOffset.FromFileTime(fileTime).ToUniversalTime()
        : null;

    private static byte[]? BlockAt(IReadableBlocks volume, long at)
    {
        if (at <= 0 || at > volume.LengthBytes - EncryptionHeader.Bytes) return null;
        var head = volume.ReadBytes(at, EncryptionHeader.Bytes);
        var length = BinaryPrimitives.ReadUInt16LittleEndian(head.AsSpan(LengthAt)) * LengthUnit;
        var needed = length + CheckHeadBytes + sizeof(uint);
        var fits = length >= EntriesAt && needed <= MostBytes && needed <= volume.LengthBytes - at;
        if (!fits || !head.AsSpan().StartsWith(EncryptionHeader.Mark)) return null;
        var bytes = volume.ReadBytes(at, needed);
        var check = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(length + CheckHeadBytes));
        return System.IO.Hashing.Crc32.HashToUInt32(bytes.AsSpan(0, length)) == check ? bytes[..length] : null;
    }

    private ushort Short(int at) => BinaryPrimitives.ReadUInt16LittleEndian(block.AsSpan(at));

    private long Long(int at) => BinaryPrimitives.ReadInt64LittleEndian(block.AsSpan(at));
}

using System.Buffers.Binary;
using System.Runtime.InteropServices;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Fat;

/// <summary>The file allocation table of a volume (Microsoft FAT specification 1.03): which cluster follows which.</summary>
/// <remarks>Read in pages, as they are asked for; changes are kept until <see cref="Flush"/>, which writes every copy that is
///     in use.</remarks>
internal sealed class FatTable
{
    public const uint FirstCluster = 2;
    private const int PageBytes = 4096;
    private const uint Fat32Mask = 0x0FFFFFFF;
    private readonly IWritableBlocks partition;
    private readonly FatBootSector parameters;
    private readonly int copy;
    private readonly Dictionary<long, byte[]> pages = [];
    private readonly SortedSet<long> changed = [];
    private uint hint = FirstCluster;
    private uint? free;

    /// <param name="partition">The partition, as blocks of its own.</param>
    /// <param name="parameters">What the boot sector says of the volume.</param>
    /// <param name="copy">Which copy to read; null for the one that counts.</param>
    public FatTable(IWritableBlocks partition, FatBootSector parameters, int? copy = null)
    {
        this.partition = partition;
        this.parameters = parameters;
        this.copy = copy ?? parameters.OnlyFat ?? 0;
        Limit = (uint)Math.Min(parameters.ClusterCount + FirstCluster, CapacityEntries);
    }

    /// <summary>The first number that is no cluster's.</summary>
    public uint Limit { get; }

    /// <summary>What ends a chain.</summary>
    public uint EndMark => Mask;

    private uint Mask => parameters.Kind switch { FileSystemKind.Fat12 => 0xFFF, FileSystemKind.Fat16 => 0xFFFF, _ => Fat32Mask };

    private long FatBytes => parameters.FatSectors * parameters.BytesPerSector;

    private long CapacityEntries =>
        parameters.Kind switch
        {
            FileSystemKind.Fat12 => FatBytes * 2 / 3,
            FileSystemKind.Fat16 => FatBytes / 2,
            _ => FatBytes / 4
        };

    public bool IsCluster(uint number) => number >= FirstCluster && number < Limit;

    public bool IsEnd(uint value) => value >= Mask - 7;

    /// <summary>Whether an entry marks its cluster as one that can't be used.</summary>
    public bool IsBad(uint value) => value == Mask - 8;

    public uint Get(uint cluster)
    {
        switch (parameters.Kind)
        {
            case FileSystemKind.Fat12:
                var at = cluster * 3L / 2;
                var pair = Byte(at) | ((uint)Byte(at + 1) << 8);
                return (cluster & 1) == 0 ? pair & 0xFFF : pair >> 4;
            case FileSystemKind.Fat16:
                return BinaryPrimitives.ReadUInt16LittleEndian(At(cluster * 2L));
            default:
                return BinaryPrimitives.ReadUInt32LittleEndian(At(cluster * 4L)) & Fat32Mask;
        }
    }

    /// <summary>Sets what follows a cluster; the top bits of a FAT32 entry stay.</summary>
    public void Set(uint cluster, uint value)
    {
        var before = Get(cluster);
        if (free is { } count && (before == 0) != (value == 0)) free = value == 0 ? count + 1 : count - 1;
        switch (parameters.Kind)
        {
            case FileSystemKind.Fat12:
                var at = cluster * 3L / 2;
                var odd = (cluster & 1) != 0;
                SetByte(at, odd ? (byte)((Byte(at) & 0x0Fu) | (value << 4)) : (byte)value);
                SetByte(at + 1, odd ? (byte)(value >> 4) : (byte)((Byte(at + 1) & 0xF0u) | (value >> 8)));
                break;
            case FileSystemKind.Fat16:
                BinaryPrimitives.WriteUInt16LittleEndian(Changing(cluster * 2L), (ushort)value);
                break;
            default:
                var entry = Changing(cluster * 4L);
                BinaryPrimitives.WriteUInt32LittleEndian(
                    entry,
                    (BinaryPrimitives.ReadUInt32LittleEndian(entry) & ~Fat32Mask) | (value & Fat32Mask));
                break;
        }
    }

    /// <summary>The clusters of a chain; ends where the chain does, or where it leads nowhere or runs in a circle.</summary>
    public IEnumerable<uint> Chain(uint first)
    {
        var left = Limit;
        for (var cluster = first; IsCluster(cluster) && left-- > 0; cluster = Get(cluster)) yield return cluster;
    }

    /// <summary>How many clusters are free.</summary>
    public uint FreeClusters()
    {
        if (free is { } known) return known;
        uint count = 0;
        if (parameters.Kind == FileSystemKind.Fat12)
        {
            for (var cluster = FirstCluster; cluster < Limit; cluster++) count += Get(cluster) == 0 ? 1u : 0;
        }
        else
        {
            count = FreeInPages();
        }

        free = count;
        return count;
    }

    /// <summary>Counts a page at a time: entries of 2 or 4 bytes never cross one.</summary>
    private uint FreeInPages()
    {
        uint count = 0;
        var isWide = parameters.Kind == FileSystemKind.Fat32;
        var inPage = PageBytes / (isWide ? sizeof(uint) : sizeof(ushort));
        for (var first = 0L; first < Limit; first += inPage)
        {
            var page = Page(first / inPage);
            var from = (int)Math.Max(0, FirstCluster - first);
            var to = (int)Math.Min(Math.Min(inPage, page.Length / (isWide ? sizeof(uint) : sizeof(ushort))), Limit - first);
            if (isWide)
            {
                foreach (var entry in MemoryMarshal.Cast<byte, uint>(page)[from..to]) count += (entry & Fat32Mask) == 0 ? 1u : 0;
            }
            else
            {
                count += (uint)MemoryMarshal.Cast<byte, ushort>(page)[from..to].Count((ushort)0);
            }
        }

        return count;
    }

    /// <summary>Takes that many free clusters, in the order of the disk, and chains them; the last ends the chain.</summary>
    /// <param name="count">How many clusters.</param>
    /// <param name="after">The cluster that they follow; 0 for a new chain.</param>
    /// <exception cref="RefusedException">There is too little room.</exception>
    public List<uint> Take(int count, uint after)
    {
        if (count > FreeClusters())
        {
            throw new RefusedException(
                "There is too little room on the volume.",
                $"{(long)count * parameters.ClusterBytes} bytes are needed, and "
                    + $"{(long)FreeClusters() * parameters.ClusterBytes} are free.",
                "Delete files that are not needed there, then run the same command again.");
        }

        var taken = new List<uint>(count);
        for (var searched = 0L; taken.Count < count && searched < Limit; searched++)
        {
            if (Get(hint) == 0)
            {
                if (after != 0) Set(after, hint);
                Set(hint, EndMark);
                after = hint;
                taken.Add(hint);
            }

            hint = hint + 1 < Limit ? hint + 1 : FirstCluster;
        }

        return taken;
    }

    /// <summary>Gives the clusters of a chain back.</summary>
    public void Free(uint first)
    {
        foreach (var cluster in Chain(first).ToList()) Set(cluster, 0);
        if (IsCluster(first) && first < hint) hint = first;
    }

    /// <summary>Writes what changed to the copies in use.</summary>
    public void Flush()
    {
        foreach (var page in changed)
        {
            for (var target = 0; target < parameters.FatCount; target++)
            {
                if (parameters.OnlyFat is { } only && only != target) continue;
                partition.Write(Offset(target) + (page * PageBytes), pages[page]);
            }
        }

        changed.Clear();
    }

    /// <summary>Where a copy begins, in bytes from the volume's start.</summary>
    private long Offset(int which) => (parameters.ReservedSectors + (which * parameters.FatSectors)) * parameters.BytesPerSector;

    private byte Byte(long at) => Page(at / PageBytes)[at % PageBytes];

    private void SetByte(long at, byte value) => Changing(at)[0] = value;

    private ReadOnlySpan<byte> At(long at) => Page(at / PageBytes).AsSpan((int)(at % PageBytes));

    private Span<byte> Changing(long at)
    {
        changed.Add(at / PageBytes);
        return Page(at / PageBytes).AsSpan((int)(at % PageBytes));
    }

    private byte[] Page(long number)
    {
        if (pages.TryGetValue(number, out var page)) return page;
        var start = number * PageBytes;
        page = partition.ReadBytes(Offset(copy) + start, (int)Math.Min(PageBytes, FatBytes - start));
        pages.Add(number, page);
        return page;
    }
}

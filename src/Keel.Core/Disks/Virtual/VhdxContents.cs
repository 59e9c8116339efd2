using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Disks.Virtual;

/// <summary>What a VHDX says of itself, read and checked.</summary>
/// <param name="Table">Where the table of its blocks stands in the file.</param>
/// <param name="DiskBytes">The length of the disk in bytes.</param>
/// <param name="SectorBytes">A logical sector of the disk: 512 or 4096 bytes.</param>
/// <param name="BlockBytes">A block in bytes, a power of two from 1 MiB to 256 MiB.</param>
/// <param name="Parent">What it differs from; null where it holds all of the disk.</param>
internal sealed record VhdxContents(ByteRange Table, long DiskBytes, int SectorBytes, int BlockBytes, ParentClaim? Parent)
{
    private const int FirstTableAt = 192 * 1024, SecondTableAt = 256 * 1024, MiB = 1024 * 1024;
    private const long LargestDiskBytes = 64L * 1024 * 1024 * MiB;
    private const uint HasParent = 2;

    /// <summary>How many sectors one sector bitmap counts: its megabyte has a bit for each.</summary>
    private const long BitmapSectors = 1L << 23;

    private static ReadOnlySpan<byte> Mark => "vhdxfile"u8;

    /// <summary>How many blocks there are to one sector bitmap.</summary>
    public long ChunkBlocks => BitmapSectors * SectorBytes / BlockBytes;

    /// <summary>Whether the mark of the format stands at a file's beginning.</summary>
    public static bool IsIn(IReadableBlocks file) =>
        file.TryReadAnyway(0, Mark.Length) is { } bytes && bytes.AsSpan().SequenceEqual(Mark);

    /// <summary>Reads what a file says of itself, its log replayed.</summary>
    /// <exception cref="UnreadableException">It is so damaged that its bytes can't be placed, or needs something that keel does
    /// not know.</exception>
    public static VhdxContents Read(IReadableBlocks file)
    {
        var regions = Regions(file);
        if (regions.GetValueOrDefault(VhdxIds.BlockTable) is not { Length: > 0 } table)
            throw Damaged("it has no table of its blocks");
        if (regions.GetValueOrDefault(VhdxIds.Metadata) is not { Length: > 0 } region) throw Damaged("it has no metadata");
        var items = Items(file, region);
        var parameters = Number(file, items, VhdxIds.FileParameters, sizeof(ulong));
        var (blockBytes, flags) = ((uint)parameters, (uint)(parameters >> 32));
        var diskBytes = Number(file, items, VhdxIds.DiskBytes, sizeof(ulong));
        var sectorBytes = Number(file, items, VhdxIds.LogicalSector, sizeof(uint));
        if (sectorBytes is not (512 or 4096)) throw Damaged($"it claims sectors of {sectorBytes} bytes");
        if (blockBytes is < MiB or > 256 * MiB || !uint.IsPow2(blockBytes))
            throw Damaged($"it claims blocks of {blockBytes} bytes");
        if (diskBytes is 0 or > LargestDiskBytes || diskBytes % sectorBytes != 0)
            throw Damaged($"it claims to be a disk of {diskBytes} bytes");
        var claim = (flags & HasParent) != 0 ? ParentOf(file, items) : null;
        var contents = new VhdxContents(table, (long)diskBytes, (int)sectorBytes, (int)blockBytes, claim);
        return contents.UsedEntries * sizeof(ulong) <= table.Length
            ? contents
            : throw Damaged("its table has too few blocks for its length");
    }

    /// <summary>How many entries of the table count.</summary>
    public long UsedEntries
    {
        get
        {
            var blocks = (DiskBytes + BlockBytes - 1) / BlockBytes;
            var chunks = (blocks + ChunkBlocks - 1) / ChunkBlocks;
            return Parent is null ? blocks + ((blocks - 1) / ChunkBlocks) : chunks * (ChunkBlocks + 1);
        }
    }

    private static Dictionary<Guid, ByteRange> Regions(IReadableBlocks file)
    {
        var bytes = RegionTable(file, FirstTableAt) ?? RegionTable(file, SecondTableAt)
            ?? throw Damaged("neither of its two tables of regions is whole");
        var head = bytes.At<VhdxRegionTableRecord>(0);
        var regions = new Dictionary<Guid, ByteRange>();
        for (var number = 0; number < Math.Min(head.EntryCount, VhdxRegionTableRecord.MostEntries); number++)
        {
            var region = bytes.At<VhdxRegionRecord>(SizeOf<VhdxRegionTableRecord>() + (number * SizeOf<VhdxRegionRecord>()));
            if (region.Kind != VhdxIds.BlockTable && region.Kind != VhdxIds.Metadata)
            {
                if ((region.Required & 1) != 0) throw Unknown($"a region {region.Kind}");
                continue;
            }

            if (region.At > (ulong)file.LengthBytes || region.Bytes > (ulong)file.LengthBytes - region.At)
                throw Damaged("a region lies behind its end: it is cut short");
            regions[region.Kind] = new ByteRange((long)region.At, region.Bytes);
        }

        return regions;
    }

    private static byte[]? RegionTable(IReadableBlocks file, int at) =>
        file.TryReadAnyway(at, VhdxRegionTableRecord.TableBytes) is { } bytes
            && bytes.At<VhdxRegionTableRecord>(0) is { Mark: VhdxRegionTableRecord.MarkValue } head
            && VhdxChecksum.Of(bytes, VhdxRegionTableRecord.ChecksumAt) == head.Checksum
            ? bytes
            : null;

    private static Dictionary<Guid, ByteRange> Items(IReadableBlocks file, ByteRange region)
    {
        if (region.Length < VhdxMetadataTableRecord.TableBytes
            || file.ReadBytes(region.Start, VhdxMetadataTableRecord.TableBytes) is not { } bytes
            || !bytes.AsSpan().StartsWith(VhdxMetadataTableRecord.MarkBytes))
        {
            throw Damaged("the table of its metadata is not there");
        }

        Guid[] known =
        [
            VhdxIds.FileParameters,
            VhdxIds.DiskBytes,
            VhdxIds.DiskId,
            VhdxIds.LogicalSector,
            VhdxIds.PhysicalSector,
            VhdxIds.Parent
        ];
        var head = bytes.At<VhdxMetadataTableRecord>(0);
        var items = new Dictionary<Guid, ByteRange>();
        for (var number = 0; number < Math.Min((int)head.EntryCount, VhdxMetadataTableRecord.MostEntries); number++)
        {
            var item = bytes.At<VhdxMetadataRecord>(SizeOf<VhdxMetadataTableRecord>() + (number * SizeOf<VhdxMetadataRecord>()));
            if (!known.Contains(item.Item))
            {
                if ((item.Flags & VhdxMetadataRecord.Required) != 0) throw Unknown($"an item {item.Item}");
                continue;
            }

            if (item.At > region.Length || item.Bytes > region.Length - item.At)
                throw Damaged("an item lies behind its metadata");
            items[item.Item] = new ByteRange(region.Start + item.At, item.Bytes);
        }

        return items;
    }

    private static ulong Number(IReadableBlocks file, Dictionary<Guid, ByteRange> items, Guid item, int bytes)
    {
        if (!items.TryGetValue(item, out var range) || range.Length < bytes) throw Damaged("a part of its metadata is missing");
        var value = new byte[sizeof(ulong)];
        file.Read(range.Start, value.AsSpan(0, bytes));
        return BitConverter.ToUInt64(value);
    }

    private static ParentClaim ParentOf(IReadableBlocks file, Dictionary<Guid, ByteRange> items)
    {
        const int largest = 1024 * 1024;
        if (items.GetValueOrDefault(VhdxIds.Parent) is not { Length: >= VhdxLocatorRecord.Bytes and <= largest } range)
            throw Damaged("it does not say what disk it differs from");
        var bytes = file.ReadBytes(range.Start, (int)range.Length);
        var head = bytes.At<VhdxLocatorRecord>(0);
        if (head.Kind != VhdxIds.ParentIsVhdx) throw Unknown($"a parent of kind {head.Kind}");
        var values = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase);
        for (var number = 0; number < head.Count; number++)
        {
            var entry = bytes.At<VhdxLocatorEntryRecord>(VhdxLocatorRecord.Bytes + (number * VhdxLocatorEntryRecord.Bytes));
            values[Text(bytes, entry.NameAt, entry.NameBytes)] = Text(bytes, entry.ValueAt, entry.ValueBytes);
        }

        var names = new[] { "relative_path", "absolute_win32_path", "volume_path" }
            .Select(name => values.GetValueOrDefault(name, ""))
            .Where(path => path.Length > 0)
            .ToList();
        return Guid.TryParse(values.GetValueOrDefault("parent_linkage"), out var id)
            ? new ParentClaim(names, id)
            : throw Damaged("it does not say what its parent calls itself");
    }

    private static string Text(byte[] bytes, uint at, ushort length) =>
        at <= bytes.Length && length <= bytes.Length - at
            ? Encoding.Unicode.GetString(bytes, (int)at, length)
            : throw Damaged("what it says of its parent is cut short");

    private static int SizeOf<T>()
        where T : unmanaged => System.Runtime.CompilerServices.Unsafe.SizeOf<T>();

    private static UnreadableException Damaged(string why) => VirtualDiskErrors.Damaged("VHDX", why);

    private static UnreadableException Unknown(string what) => new(
        "The VHDX file can't be read by keel.",
        $"It needs {what}, which keel does not know.",
        "Convert it with the program that made it, or name a plain image of the disk.");
}

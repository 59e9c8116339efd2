using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Snapshots;

namespace Keel.Core.Drills;

/// <summary>Writes snapshots of a practice volume as Windows keeps them.</summary>
/// <remarks>Layouts from the Volume Shadow Snapshot format documentation of libvshadow.</remarks>
internal sealed class PracticeSnapshots
{
    private const string Folder = @"\System Volume Information";
    private const int BlockBytes = SnapshotBlockRecord.BlockBytes, ReservedBlocks = 160, DescriptorBytes = 32, RangeBytes = 24;
    private const int InformationTextAt = 64, FlagsAt = 56, CopyIdAt = 16;
    private const uint RestorePointFlags = 0x0042000D;
    private readonly DiskVolume volume;
    private readonly Overlay overlay;
    private readonly Queue<long> places = new();
    private readonly List<(DateTimeOffset Made, List<(long At, byte[] Bytes)> Old)> states = [];

    /// <param name="volume">The volume.</param>
    /// <param name="overlay">The overlay of its disk.</param>
    public PracticeSnapshots(DiskVolume volume, Overlay overlay)
    {
        this.volume = volume;
        this.overlay = overlay;
        Reserve();
    }

    /// <summary>What the volume is now becomes a snapshot; then this happens to it.</summary>
    public void Before(DateTimeOffset made, Action happens)
    {
        var before = overlay.Save();
        happens();
        states.Add((made, Old(before)));
    }

    /// <summary>Writes lists, catalog and head.</summary>
    public void Write()
    {
        var catalog = Block(SnapshotBlockKind.Catalog, 0, out var catalogAt);
        var entryAt = SnapshotBlockRecord.HeadBytes;
        for (var number = 0; number < states.Count; number++)
        {
            var (entry, lists) = WriteState(number);
            catalog.AsSpan().Put(entryAt, entry);
            catalog.AsSpan().Put(entryAt + SnapshotEntryRecord.Bytes, lists);
            entryAt += 2 * SnapshotEntryRecord.Bytes;
        }

        volume.Blocks.Write(catalogAt, catalog);
        var head = new byte[volume.Blocks.SectorBytes];
        head.AsSpan().Put(0, new SnapshotHeadRecord
        {
            Identifier = SnapshotHeadRecord.Mark,
            Version = 1,
            Kind = SnapshotBlockKind.Head,
            Place = SnapshotHeadRecord.At,
            CatalogAt = catalogAt,
            MostBytes = volume.Blocks.LengthBytes / 10
        });
        volume.Blocks.Write(SnapshotHeadRecord.At, head.AsSpan(0, 512));
    }

    private static Guid IdOf(int number, byte kind) => new(0xb4ac0000 + (uint)number, 0x17, 0x50, 0, 0, 0, 0, 0, 0, 0, kind);

    /// <summary>
    /// Makes a file as long as all that will be kept, and looks where it came to lie: each of its clusters says which it is.
    /// </summary>
    private void Reserve()
    {
        const int markBytes = 4096;
        var contents = new byte[ReservedBlocks * BlockBytes];
        for (var at = 0; at < contents.Length; at += markBytes)
        {
            SnapshotHeadRecord.Mark.TryWriteBytes(contents.AsSpan(at));
            BinaryPrimitives.WriteInt32LittleEndian(contents.AsSpan(at + 16), at);
        }

        volume.Edit(files =>
        {
            files.CreateFolder(Folder);
            files.WriteFile($@"{Folder}\{IdOf(1, 0):B}{SnapshotHeadRecord.Mark:B}", contents);
        });
        var blocks = volume.Blocks;
        var written = overlay.Save().Blocks;
        for (long at = 0; at + BlockBytes <= blocks.LengthBytes; at += BlockBytes)
        {
            if (!written.ContainsKey((volume.RawBlocks.Range.Start + at) / Overlay.BlockBytes)) continue;
            var bytes = blocks.ReadBytes(at, BlockBytes);
            if (Enumerable.Range(0, BlockBytes / markBytes).All(part => IsMarked(bytes.AsSpan(part * markBytes, markBytes))))
                places.Enqueue(at);
        }
    }

    private static bool IsMarked(ReadOnlySpan<byte> cluster) =>
        new Guid(cluster[..16]) == SnapshotHeadRecord.Mark && cluster[20..].IndexOfAnyExcept((byte)0) < 0;

    /// <summary>The blocks that have changed since, as they were.</summary>
    private List<(long At, byte[] Bytes)> Old(OverlayState before)
    {
        var start = volume.RawBlocks.Range.Start;
        var changed = overlay.Save().Blocks
            .Where(block => !ReferenceEquals(before.Blocks.GetValueOrDefault(block.Key), block.Value))
            .Select(block => ((block.Key * Overlay.BlockBytes) - start) / BlockBytes * BlockBytes)
            .Where(at => at >= 0 && at + BlockBytes <= volume.Blocks.LengthBytes)
            .Distinct()
            .ToList();
        return [.. changed.Select(at => (at, ReadAt(before, start + at)))];
    }

    private byte[] ReadAt(OverlayState state, long start)
    {
        var bytes = new byte[BlockBytes];
        for (var done = 0; done < BlockBytes; done += Overlay.BlockBytes)
        {
            var part = bytes.AsSpan(done, Overlay.BlockBytes);
            if (state.Blocks.TryGetValue((start + done) / Overlay.BlockBytes, out var block)) block.Read(0, part);
            else overlay.Disk.Read(start + done, part);
        }

        return bytes;
    }

    private (SnapshotEntryRecord Entry, SnapshotPlacesRecord Lists) WriteState(int number)
    {
        var (made, old) = states[number];
        var list = Block(SnapshotBlockKind.BlockList, 0, out var listAt);
        for (var index = 0; index < old.Count; index++)
        {
            var place = places.Dequeue();
            volume.Blocks.Write(place, old[index].Bytes);
            var descriptor = list.AsSpan(SnapshotBlockRecord.HeadBytes + (index * DescriptorBytes), DescriptorBytes);
            BinaryPrimitives.WriteInt64LittleEndian(descriptor, old[index].At);
            BinaryPrimitives.WriteInt64LittleEndian(descriptor[8..], (long)(index + 1) * BlockBytes);
            BinaryPrimitives.WriteInt64LittleEndian(descriptor[16..], place);
        }

        volume.Blocks.Write(listAt, list);
        var lists = new SnapshotPlacesRecord
        {
            EntryType = SnapshotPlacesRecord.Type,
            Id = IdOf(number, 0),
            BlockListAt = listAt,
            InformationAt = WriteInformation(number),
            RangeListAt = WriteRange(),
            BitmapAt = WriteBlock(SnapshotBlockKind.Bitmap),
            AllocatedBytes = (long)ReservedBlocks * BlockBytes / states.Count
        };
        var entry = new SnapshotEntryRecord
        {
            EntryType = SnapshotEntryRecord.Type,
            VolumeBytes = volume.Blocks.LengthBytes,
            Id = lists.Id,
            Sequence = number + 1,
            Flags = 0x40,
            Made = made.ToFileTime()
        };
        return (entry, lists);
    }

    private long WriteInformation(int number)
    {
        var block = Block(SnapshotBlockKind.Information, 0, out var at);
        var contents = block.AsSpan(SnapshotBlockRecord.HeadBytes);
        IdOf(number, 1).TryWriteBytes(contents);
        IdOf(number, 2).TryWriteBytes(contents[CopyIdAt..]);
        IdOf(number, 3).TryWriteBytes(contents[(2 * CopyIdAt)..]);
        BinaryPrimitives.WriteUInt32LittleEndian(contents[FlagsAt..], RestorePointFlags);
        BinaryPrimitives.WriteInt16LittleEndian(contents[InformationTextAt..], 0);
        BinaryPrimitives.WriteInt64LittleEndian(block.AsSpan(48), InformationTextAt + 4);
        volume.Blocks.Write(at, block);
        return at;
    }

    private long WriteRange()
    {
        var block = Block(SnapshotBlockKind.RangeList, 0, out var at);
        var range = block.AsSpan(SnapshotBlockRecord.HeadBytes, RangeBytes);
        BinaryPrimitives.WriteInt64LittleEndian(range, at);
        BinaryPrimitives.WriteInt64LittleEndian(range[16..], BlockBytes);
        volume.Blocks.Write(at, block);
        return at;
    }

    private long WriteBlock(SnapshotBlockKind kind)
    {
        var block = Block(kind, 0, out var at);
        volume.Blocks.Write(at, block);
        return at;
    }

    private byte[] Block(SnapshotBlockKind kind, long within, out long at)
    {
        at = places.Dequeue();
        var block = new byte[BlockBytes];
        block.AsSpan().Put(0, new SnapshotBlockRecord
        {
            Identifier = SnapshotHeadRecord.Mark,
            Version = 1,
            Kind = kind,
            Within = within,
            Place = at
        });
        return block;
    }
}

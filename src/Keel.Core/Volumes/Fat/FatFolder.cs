using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Fat;

/// <summary>The slots of one folder, read whole; changes go to the volume at once.</summary>
internal sealed class FatFolder
{
    private const int LimitBytes = 65536 * FatEntry.SlotBytes;
    private const byte Unused = 0;
    private readonly FatSpace space;
    private readonly List<ByteRange> places;
    private readonly List<FatEntry> entries;
    private byte[] slots;
    private FatNameIndex? index;

    private FatFolder(FatSpace space, uint firstCluster, List<ByteRange> places)
    {
        this.space = space;
        this.places = places;
        FirstCluster = firstCluster;
        slots = new byte[places.Sum(place => place.Length)];
        var at = 0;
        foreach (var place in places)
        {
            space.Partition.Read(place.Start, slots.AsSpan(at, (int)place.Length));
            at += (int)place.Length;
        }

        entries = Parse();
    }

    /// <summary>0 for the fixed root folder of FAT12 and FAT16.</summary>
    public uint FirstCluster { get; }

    /// <summary>What is in it, without "." and "..", the label and what was deleted.</summary>
    public IReadOnlyList<FatEntry> Entries => entries;

    /// <summary>The volume's label, where this folder has it; empty otherwise.</summary>
    public string Label
    {
        get
        {
            for (var at = 0; at < slots.Length && slots[at] != Unused; at += FatEntry.SlotBytes)
            {
                var slot = slots.AsSpan(at, FatEntry.SlotBytes);
                if (slot[0] != FatEntry.Deleted && FatEntry.IsLabel(slot))
                    return System.Text.Encoding.Latin1.GetString(slot[..FatNames.ShortBytes]).TrimEnd();
            }

            return "";
        }
    }

    public static FatFolder Root(FatSpace space) => space.RootRange is { } range
        ? new FatFolder(space, 0, [range])
        : At(space, space.Parameters.RootCluster);

    /// <summary>The folder that begins at a cluster; 0, as ".." says it, is the root.</summary>
    public static FatFolder At(FatSpace space, uint cluster)
    {
        if (cluster == 0) return Root(space);
        var limit = Math.Max(1, LimitBytes / space.Parameters.ClusterBytes);
        return new FatFolder(space, cluster, [.. space.Table.Chain(cluster).Take(limit).Select(space.RangeOf)]);
    }

    public FatEntry? Find(string name) => (index ??= new FatNameIndex(entries)).Find(name);

    /// <summary>Lists a new file or folder.</summary>
    public void Add(string name, FileMarks marks, uint firstCluster, uint sizeBytes)
    {
        var chosen = FatNames.Choose(name, candidate => Entries.Any(entry => entry.ShortName.AsSpan().SequenceEqual(candidate)));
        var slot = FatEntry.NewSlot(chosen.Bytes, marks, firstCluster, sizeBytes, space.Clock.GetLocalNow());
        FatEntry.SetCase(slot, chosen);
        byte[] added = [.. chosen.NeedsLong ? FatNames.LongSlots(name, chosen.Bytes) : [], .. slot];
        var first = FreeRun(added.Length / FatEntry.SlotBytes);
        added.CopyTo(slots.AsSpan(first * FatEntry.SlotBytes));
        Write(first, added.Length / FatEntry.SlotBytes);
        var shortSlot = added.AsSpan(added.Length - FatEntry.SlotBytes);
        var entry = FatEntry.Read(shortSlot, chosen.NeedsLong ? name : null, first, added.Length / FatEntry.SlotBytes);
        entries.Add(entry);
        index?.Add(entry);
    }

    /// <summary>Takes an entry out of the list; its clusters stay as they are.</summary>
    public void Remove(FatEntry entry)
    {
        for (var slot = entry.FirstSlot; slot <= entry.ShortSlot; slot++) slots[slot * FatEntry.SlotBytes] = FatEntry.Deleted;
        Write(entry.FirstSlot, entry.SlotCount);
        entries.Remove(entry);
        index = null;
    }

    /// <summary>Changes the short slot of an entry.</summary>
    public void Change(FatEntry entry, Action<byte[]> change)
    {
        var slot = slots.AsSpan(entry.ShortSlot * FatEntry.SlotBytes, FatEntry.SlotBytes).ToArray();
        change(slot);
        slot.CopyTo(slots.AsSpan(entry.ShortSlot * FatEntry.SlotBytes));
        Write(entry.ShortSlot, 1);
        var changed = FatEntry.Read(slot, entry.SlotCount > 1 ? entry.Name : null, entry.FirstSlot, entry.SlotCount);
        entries[entries.IndexOf(entry)] = changed;
        index?.Replace(entry, changed);
    }

    private List<FatEntry> Parse()
    {
        var found = new List<FatEntry>();
        var longFrom = -1;
        for (var index = 0; index < slots.Length / FatEntry.SlotBytes; index++)
        {
            var slot = slots.AsSpan(index * FatEntry.SlotBytes, FatEntry.SlotBytes);
            if (slot[0] == Unused) break;
            if (slot[0] == FatEntry.Deleted)
            {
                longFrom = -1;
            }
            else if (FatNames.IsLongSlot(slot))
            {
                const byte lastPart = 0x40;
                if (longFrom < 0 || (slot[0] & lastPart) != 0) longFrom = index;
            }
            else
            {
                if (!FatEntry.IsLabel(slot) && slot[0] != '.') found.Add(Read(slot, longFrom, index));
                longFrom = -1;
            }
        }

        return found;
    }

    /// <summary>Long slots that do not fit the short one are left alone: they belong to something that is gone.</summary>
    private FatEntry Read(ReadOnlySpan<byte> slot, int longFrom, int index)
    {
        var name = longFrom < 0
            ? null
            : FatNames.LongText(slots.AsSpan(longFrom * FatEntry.SlotBytes, (index - longFrom) * FatEntry.SlotBytes), slot);
        var first = name is null ? index : longFrom;
        return FatEntry.Read(slot, name, first, index - first + 1);
    }

    /// <summary>The first of so many unused slots in a row; makes the folder longer where there are none.</summary>
    private int FreeRun(int count)
    {
        var run = 0;
        var ended = false;
        for (var index = 0; index < slots.Length / FatEntry.SlotBytes; index++)
        {
            ended |= slots[index * FatEntry.SlotBytes] == Unused;
            run = ended || slots[index * FatEntry.SlotBytes] == FatEntry.Deleted ? run + 1 : 0;
            if (run == count) return index - count + 1;
        }

        Grow();
        return FreeRun(count);
    }

    private void Grow()
    {
        if (FirstCluster == 0 || slots.Length + space.Parameters.ClusterBytes > LimitBytes)
        {
            throw new RefusedException(
                "There is no room for another file in that folder.",
                $"It holds {slots.Length / FatEntry.SlotBytes} slots, and can't hold more.",
                "Delete files there that are not needed.");
        }

        var added = space.RangeOf(space.Table.Take(1, after: space.Table.Chain(FirstCluster).Last())[0]);
        space.Partition.Write(added.Start, new byte[added.Length]);
        places.Add(added);
        Array.Resize(ref slots, slots.Length + (int)added.Length);
    }

    /// <summary>Writes slots to the places where they stand.</summary>
    private void Write(int first, int count)
    {
        var (from, end) = (first * FatEntry.SlotBytes, (first + count) * FatEntry.SlotBytes);
        var at = 0;
        foreach (var place in places)
        {
            var (start, stop) = (Math.Max(from, at), Math.Min(end, at + (int)place.Length));
            if (start < stop) space.Partition.Write(place.Start + start - at, slots.AsSpan(start, stop - start));
            at += (int)place.Length;
        }
    }
}

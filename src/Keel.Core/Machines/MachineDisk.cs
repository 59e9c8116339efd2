using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Keys;
using Keel.Core.Layout;
using Keel.Core.Search;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>One disk of a machine, under its overlay; what is read from it is kept until the overlay changes.</summary>
public sealed class MachineDisk : IDisposable
{
    private const int LargeSectorBytes = 4096;
    private readonly IDisposable? owned;
    private readonly WatchedBlocks watched;
    private readonly List<MachineDisk> inside = [];
    private readonly string? spillFolder;
    private readonly KeyRing keys;
    private DiskLayout? layout;
    private IReadOnlyList<DiskVolume> volumes = [];
    private bool isLayoutKnown;
    private (IReadOnlyList<ByteRange> Listed, SearchResult Result)? searched;

    /// <summary>A disk over any blocks; the machine disposes of them where they can be.</summary>
    /// <param name="path">The path it was opened by, links resolved.</param>
    /// <param name="blocks">The disk itself.</param>
    /// <param name="spillFolder">See <see cref="DiskTerms.SpillFolder"/>.</param>
    /// <param name="keys">See <see cref="DiskTerms.Keys"/>; null where none are at hand.</param>
    public MachineDisk(string path, IReadableBlocks blocks, string? spillFolder = null, KeyRing? keys = null)
    {
        this.spillFolder = spillFolder;
        this.keys = keys ?? new KeyRing();
        Path = path;
        owned = blocks as IDisposable;
        watched = new WatchedBlocks(blocks);
        Overlay = new Overlay(
            new CachedBlocks(watched),
            spillFolder is null ? null : () => new SpillFile(spillFolder));
        Overlay.Changing += _ => isLayoutKnown = false;
    }

    /// <summary>What opens its encrypted volumes.</summary>
    internal KeyRing Keys => keys;

    /// <summary>The path it was opened by, links resolved.</summary>
    public string Path { get; }

    /// <summary>The disk with what would be changed on it.</summary>
    public Overlay Overlay { get; }

    /// <summary>Whether it is an image, whose sector size is not told by a device.</summary>
    public bool IsImage => owned is IDisk { Form: not DiskForm.Device };

    /// <summary>What its bytes lie in; null where it is none of the system's disks.</summary>
    public DiskForm? Form => (owned as IDisk)?.Form;

    /// <summary>Where it lies inside another disk; null where it stands by itself.</summary>
    public InsideDisk? Inside => owned as InsideDisk;

    /// <summary>
    /// The file to be told with its volumes, where it was found beside other disks; null where it is the one that is meant.
    /// </summary>
    internal string? InFile { get; init; }

    /// <summary>
    /// The disk of this computer that it lies in, through however many layers: itself where it stands by itself.
    /// </summary>
    public MachineDisk Outermost => Inside is { } inside ? inside.Host.Outermost : this;

    /// <summary>What the device was asked, where it is a real one.</summary>
    public BlockCounters? Counters => (owned as IDisk)?.Counters;

    /// <summary>What tells it from another disk with the same name or contents.</summary>
    public DiskTraits Traits => field ??= (owned as IDisk)?.Traits ?? DiskTraits.None;

    /// <summary>Its signature or GUID as it stands on the disk, whatever the overlay holds.</summary>
    public DiskIdentity IdentityNow => DiskLayout.Read(Overlay.Disk).Identity;

    /// <summary>Where it would not give what it was asked for, so far.</summary>
    public ReadErrors ReadErrors => watched.Errors;

    /// <summary>
    /// Whether a range touches a volume, by the table that was read last; what nothing is known of counts as touched, and so does
    /// what lies in no volume, for a table may stand there.
    /// </summary>
    internal bool IsPartOf(int volume, ByteRange range) =>
        layout?.Partitions.FirstOrDefault(partition => partition.Number == volume) is not { } partition
            || partition.Range.Overlaps(range)
            || !layout.Partitions.Any(other => !other.IsExtended && other.Range.Overlaps(range));

    /// <summary>Begins the budget of another walk.</summary>
    internal void BeginBudget() => watched.BeginBudget();

    /// <summary>Its partitions, with the changes.</summary>
    public DiskLayout Layout
    {
        get
        {
            Refresh();
            return layout!;
        }
    }

    /// <summary>Its volumes, with the changes.</summary>
    public IReadOnlyList<DiskVolume> Volumes
    {
        get
        {
            Refresh();
            return volumes;
        }
    }

    /// <summary>The disk for a search of its sectors, whatever its table says.</summary>
    /// <param name="progress">Told now and then.</param>
    public SearchedDisk ForSearch(Action<SearchProgress> progress) => new(
        Overlay,
        place => owned is IDisk disk ? disk.NextData(place) : place,
        state =>
        {
            BeginBudget();
            progress(state);
        });

    /// <summary>What stands at the usual places of volumes; searched once for each layout.</summary>
    internal SearchResult QuickSearch()
    {
        var listed = Layout.Partitions.Select(partition => partition.Range).ToList();
        if (searched is { } known && known.Listed.SequenceEqual(listed)) return known.Result;
        var result = VolumeSearch.Quick(ForSearch(_ => { }), listed);
        searched = (listed, result);
        return result;
    }

    /// <summary>Opens a disk for looking, whatever it lies in.</summary>
    /// <param name="path">Its path, or its address.</param>
    /// <param name="terms">What was said of how it is to be opened; where that is no sector size, an image has 512 bytes, or 4096
    ///     where a GPT stands as it does with such sectors.</param>
    /// <exception cref="UnreadableException">It is no disk, or can't be opened.</exception>
    public static MachineDisk Open(string path, DiskTerms? terms = null)
    {
        terms ??= DiskTerms.Usual;
        var disk = new DiskOpening(terms).Open(path);
        try
        {
            if (disk.LengthBytes < disk.SectorBytes)
            {
                throw new UnreadableException(
                    $"{path} is not a disk.",
                    $"It has {disk.LengthBytes} bytes, less than one sector.",
                    "Name a whole disk, or a complete image of one.");
            }

            if (disk.Form == DiskForm.Raw) RefuseOtherFiles(path, disk);
            var isTold = disk.Form is DiskForm.Device or DiskForm.Vhd or DiskForm.Vhdx || terms.SectorBytes is not null;
            if (isTold || !HasLargeSectors(disk))
                return Innermost(new MachineDisk(disk.Path, disk, terms.SpillFolder, terms.Keys), terms);
        }
        catch
        {
            disk.Dispose();
            throw;
        }

        disk.Dispose();
        disk = new DiskOpening(terms with { SectorBytes = LargeSectorBytes }).Open(path);
        return Innermost(new MachineDisk(disk.Path, disk, terms.SpillFolder, terms.Keys), terms);
    }

    /// <summary>The disk inside the one that was named, where such a one was asked for.</summary>
    private static MachineDisk Innermost(MachineDisk outer, DiskTerms terms)
    {
        try
        {
            return terms.Inside.Aggregate(outer, (disk, place) => disk.OpenInside(place));
        }
        catch
        {
            outer.Dispose();
            throw;
        }
    }

    private static bool HasLargeSectors(IReadableBlocks disk) =>
        disk.TryReadAnyway(LargeSectorBytes, 8) is { } mark
            && mark.AsSpan().SequenceEqual(GptHeader.Mark)
            && disk.TryReadAnyway(512, 8) is { } small
            && !small.AsSpan().SequenceEqual(GptHeader.Mark);

    /// <summary>A file that holds no disk at all.</summary>
    private static void RefuseOtherFiles(string path, IReadableBlocks file)
    {
        if (file.LengthBytes % file.SectorBytes == 0 || DiskLayout.Read(file).Scheme != PartitionScheme.None) return;
        throw new UnreadableException(
            $"{path} is not a disk.",
            $"It has {file.LengthBytes} bytes, which are no whole number of sectors, and holds no partition table.",
            "Name a block device such as /dev/sda, or an image of a whole disk.");
    }

    /// <summary>Opens the virtual disk in a file of one of its volumes, which is disposed of with this disk.</summary>
    /// <param name="place">Where it is.</param>
    /// <param name="isBeside">Whether this disk is one of the machine too, so that volumes of both are told apart.</param>
    /// <exception cref="UnreadableException">There is none.</exception>
    public MachineDisk OpenInside(InsidePath place, bool isBeside = false)
    {
        var disk = InsideDisk.Open(this, place);
        var inner = new MachineDisk(disk.Path, disk, spillFolder, keys) { InFile = isBeside ? place.File : null };
        inside.Add(inner);
        return inner;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var disk in inside) disk.Dispose();
        foreach (var volume in volumes) volume.Dispose();
        owned?.Dispose();
    }

    private void Refresh()
    {
        if (isLayoutKnown) return;
        foreach (var volume in volumes) volume.Dispose();
        layout = DiskLayout.Read(Overlay);
        volumes = [.. layout.Partitions.Where(partition => !partition.IsExtended && partition.Range.Start < Overlay.LengthBytes)
            .Select(partition => new DiskVolume(Path, Overlay, layout, partition, keys) { InFile = InFile })];
        isLayoutKnown = true;
    }
}

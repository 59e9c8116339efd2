using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Search;
using Keel.Core.Volumes;

namespace Keel.Core.Chain;

/// <summary>One disk of a machine, under its overlay; what is read from it is kept until the overlay changes.</summary>
public sealed class MachineDisk : IDisposable
{
    private const int LargeSectorBytes = 4096;
    private readonly IDisposable? owned;
    private readonly WatchedBlocks watched;
    private DiskLayout? layout;
    private IReadOnlyList<DiskVolume> volumes = [];
    private bool isLayoutKnown;
    private (IReadOnlyList<ByteRange> Listed, SearchResult Result)? searched;

    /// <summary>A disk over any blocks; the machine disposes of them where they can be.</summary>
    public MachineDisk(string path, IReadableBlocks blocks)
    {
        Path = path;
        owned = blocks as IDisposable;
        watched = new WatchedBlocks(blocks);
        Overlay = new Overlay(new CachedBlocks(watched));
        Overlay.Changing += _ => isLayoutKnown = false;
    }

    /// <summary>The path it was opened by, links resolved.</summary>
    public string Path { get; }

    /// <summary>The disk with what would be changed on it.</summary>
    public Overlay Overlay { get; }

    /// <summary>Whether it is an image, whose sector size is not told by a device.</summary>
    public bool IsImage => owned is DiskFile { IsBlockDevice: false };

    /// <summary>What the device was asked, where it is a real one.</summary>
    public BlockCounters? Counters => (owned as DiskFile)?.Counters;

    /// <summary>What tells it from another disk with the same name or contents.</summary>
    public DiskTraits Traits => field ??= (owned as DiskFile)?.Traits ?? DiskTraits.None;

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
        place => owned is DiskFile file ? file.NextData(place) : place,
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

    /// <summary>Opens a disk or image for looking.</summary>
    /// <param name="path">Its path.</param>
    /// <param name="sectorBytes">The sector size of an image; null for 512, or 4096 where a GPT stands as it does with such
    ///     sectors.</param>
    /// <exception cref="UnreadableException">It is no disk, or an image in a format that keel does not read.</exception>
    public static MachineDisk Open(string path, int? sectorBytes = null)
    {
        var file = DiskFile.Open(path);
        try
        {
            if (!file.IsBlockDevice) RefuseOtherFiles(path, file);
            if (file.LengthBytes < file.SectorBytes)
            {
                throw new UnreadableException(
                    $"{path} is not a disk.",
                    $"It has {file.LengthBytes} bytes, less than one sector.",
                    "Name a whole disk, or a complete image of one.");
            }

            if (file.IsBlockDevice
                || (sectorBytes ?? (HasLargeSectors(file) ? LargeSectorBytes : file.SectorBytes)) is var asked
                    && asked == file.SectorBytes)
            {
                return new MachineDisk(file.Path, file);
            }
        }
        catch
        {
            file.Dispose();
            throw;
        }

        file.Dispose();
        file = DiskFile.Open(path, LargeSectorBytes);
        return new MachineDisk(file.Path, file);
    }

    private static bool HasLargeSectors(DiskFile file) =>
        file.TryReadAnyway(LargeSectorBytes, 8) is { } mark
            && mark.AsSpan().SequenceEqual(GptHeader.Mark)
            && file.TryReadAnyway(512, 8) is { } small
            && !small.AsSpan().SequenceEqual(GptHeader.Mark);

    /// <summary>A file that holds a disk in another form, or no disk at all.</summary>
    private static void RefuseOtherFiles(string path, DiskFile file)
    {
        if (OtherImageFormat.Of(file) is { } format)
        {
            throw new UnreadableException(
                $"{path} is a disk in {format} form, which keel does not read yet.",
                "What it would see are not the bytes of the disk.",
                $"Make a plain image of it (qemu-img convert -O raw {path} plain.img), and name that.");
        }

        if (file.LengthBytes % file.SectorBytes == 0 || DiskLayout.Read(file).Scheme != PartitionScheme.None) return;
        throw new UnreadableException(
            $"{path} is not a disk.",
            $"It has {file.LengthBytes} bytes, which are no whole number of sectors, and holds no partition table.",
            "Name a block device such as /dev/sda, or an image of a whole disk.");
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var volume in volumes) volume.Dispose();
        owned?.Dispose();
    }

    private void Refresh()
    {
        if (isLayoutKnown) return;
        foreach (var volume in volumes) volume.Dispose();
        layout = DiskLayout.Read(Overlay);
        volumes = [.. layout.Partitions.Where(partition => !partition.IsExtended && partition.Range.Start < Overlay.LengthBytes)
            .Select(partition => new DiskVolume(Path, Overlay, layout, partition))];
        isLayoutKnown = true;
    }
}

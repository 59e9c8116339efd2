using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Layout;
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
    private long layoutVersion = -1;

    /// <summary>A disk over any blocks; the machine disposes of them where they can be.</summary>
    public MachineDisk(string path, IReadableBlocks blocks)
    {
        Path = path;
        owned = blocks as IDisposable;
        watched = new WatchedBlocks(blocks);
        Overlay = new Overlay(new CachedBlocks(watched));
    }

    /// <summary>The path it was opened by, links resolved.</summary>
    public string Path { get; }

    public Overlay Overlay { get; }

    /// <summary>What the device was asked, where it is a real one.</summary>
    public BlockCounters? Counters => (owned as DiskFile)?.Counters;

    /// <summary>What tells it from another disk with the same name or contents.</summary>
    public DiskTraits Traits => field ??= (owned as DiskFile)?.Traits ?? DiskTraits.None;

    /// <summary>Its signature or GUID as it stands on the disk, whatever the overlay holds.</summary>
    public DiskIdentity IdentityNow => DiskLayout.Read(Overlay.Disk).Identity;

    /// <summary>Where it would not give what it was asked for, so far.</summary>
    public ReadErrors ReadErrors => watched.Errors;

    public DiskLayout Layout
    {
        get
        {
            Refresh();
            return layout!;
        }
    }

    public IReadOnlyList<DiskVolume> Volumes
    {
        get
        {
            Refresh();
            return volumes;
        }
    }

    /// <summary>Opens a disk or image for looking. An image whose GPT stands at byte 4096 has sectors of that size.</summary>
    public static MachineDisk Open(string path)
    {
        var file = DiskFile.Open(path);
        if (!file.IsBlockDevice && file.TryRead(LargeSectorBytes, 8) is { } mark && mark.AsSpan().SequenceEqual(GptHeader.Mark)
            && file.TryRead(512, 8) is { } small && !small.AsSpan().SequenceEqual(GptHeader.Mark))
        {
            file.Dispose();
            file = DiskFile.Open(path, sectorBytes: LargeSectorBytes);
        }

        if (file.LengthBytes >= file.SectorBytes) return new MachineDisk(file.Path, file);
        var length = file.LengthBytes;
        file.Dispose();
        throw new UnreadableException($"{path} is not a disk.", $"It has {length} bytes, less than one sector.", "Name a whole disk, or a complete image of one.");
    }

    public void Dispose()
    {
        foreach (var volume in volumes) volume.Dispose();
        owned?.Dispose();
    }

    private void Refresh()
    {
        if (layoutVersion == Overlay.Version) return;
        foreach (var volume in volumes) volume.Dispose();
        layout = DiskLayout.Read(Overlay);
        volumes = [.. layout.Partitions.Where(partition => !partition.IsExtended && partition.Range.Start < Overlay.LengthBytes)
            .Select(partition => new DiskVolume(Path, Overlay, layout, partition))];
        layoutVersion = Overlay.Version;
    }
}

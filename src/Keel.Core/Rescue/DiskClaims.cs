using Keel.Core.Store;
using Keel.Core.Windows;

namespace Keel.Core.Rescue;

/// <summary>By what names the stores and SYSTEM hives on a disk remember the disk and its partitions.</summary>
internal sealed class DiskClaims
{
    private readonly SignatureVotes mbr = new();
    private readonly List<(Guid? Disk, Guid Partition, VolumeContents Volume)> gpt = [];

    /// <summary>Reads what the volumes remember.</summary>
    public static DiskClaims Of(IReadOnlyList<VolumeContents> volumes)
    {
        var claims = new DiskClaims();
        foreach (var volume in volumes)
        {
            foreach (var store in volume.Stores()) claims.AddStore(store, volume, volumes);
            foreach (var installation in volume.Installations)
                claims.AddLetters(DriveLetters.Of(installation), installation, volume);
        }

        return claims;
    }

    /// <summary>Whether anything speaks of a GUID partition table.</summary>
    public bool SpeakOfGpt => gpt.Count > 0;

    /// <summary>
    /// The disk signature that most claims about places where partitions begin agree on; null where none does, or two as many.
    /// </summary>
    public uint? SignatureFor(IReadOnlyCollection<long> starts) => mbr.For(starts);

    /// <summary>The GUID of the disk; null where no store names it, or two differ.</summary>
    public Guid? DiskGuid =>
        gpt.Select(claim => claim.Disk).OfType<Guid>().Where(id => id != Guid.Empty).Distinct().ToList() is [var only]
            ? only
            : null;

    /// <summary>The GUID of a volume's partition; null where nothing names it, or two differ.</summary>
    public Guid? PartitionGuid(VolumeContents volume)
    {
        var own = gpt.Where(claim => claim.Volume == volume && claim.Partition != Guid.Empty).ToList();
        var fromStores = own.Where(claim => claim.Disk is not null).Select(claim => claim.Partition).Distinct().ToList();
        if (fromStores.Count > 0) return fromStores.Count == 1 ? fromStores[0] : null;
        return own.Select(claim => claim.Partition).Distinct().ToList() is [var only] ? only : null;
    }

    private void AddStore(BootStore store, VolumeContents holder, IReadOnlyList<VolumeContents> volumes)
    {
        foreach (var entry in store.Entries)
        {
            foreach (var element in entry.Elements.Where(Element.IsDevice))
            {
                if (entry.Device(element) is not { IsPartition: true } device) continue;
                if (device.StartBytes is { } start) mbr.Add(device.Disk.Signature, start);
                else if (Meant(entry, holder, volumes) is { } meant)
                    gpt.Add((device.Disk.Guid, device.PartitionGuid!.Value, meant));
            }
        }
    }

    /// <summary>The volume that an entry's devices must mean; null where several may be.</summary>
    private static VolumeContents? Meant(BootEntry entry, VolumeContents holder, IReadOnlyList<VolumeContents> volumes)
    {
        if (entry.Type == EntryType.Manager || entry.Type == EntryType.MemoryTest) return holder;
        if (entry.Type != EntryType.Windows || entry.Text(Element.WindowsFolder)?.TrimEnd('\\') is not { } folder) return null;
        return volumes
            .Where(volume => volume.Installations.Any(installation => IsIn(installation, folder)))
            .ToList() is [var only]
            ? only
            : null;
    }

    private static bool IsIn(WindowsInstallation installation, string folder) =>
        installation.Folder.Equals(folder, StringComparison.OrdinalIgnoreCase);

    /// <summary>Windows calls its own volume by the letter that its SOFTWARE hive names as the place of the system.</summary>
    private void AddLetters(DriveLetters letters, WindowsInstallation installation, VolumeContents volume)
    {
        foreach (var (_, signature, start) in letters.MbrTargets) mbr.Add(signature, start);
        if (installation.SystemLetter is not { } own) return;
        gpt.AddRange(letters.GptTargets
            .Where(target => target.Letter == own)
            .Select(target => ((Guid?)null, target.Partition, volume)));
    }
}

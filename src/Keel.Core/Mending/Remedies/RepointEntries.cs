using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>Points entries whose disk or partition is gone at the volume that now stands in its place.</summary>
internal sealed class RepointEntries : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        WindowsEntryCheck.StaleVolume,
        WindowsEntryCheck.OtherDisk,
        ManagerEntryCheck.StaleVolume
    ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system || machine.Store.Store is not { } store)
            return Attempt.Refused("store-unreadable");
        var details = new List<Remark>();
        var path = machine.Store.Path;
        var ofWindows = SuccessorsOfWindows(machine, store);
        foreach (var entry in store.Entries)
        {
            foreach (var element in entry.Elements.Where(Element.IsDevice).ToList())
            {
                if (entry.Device(element) is not { } device
                    || NewPlace(machine, entry, device, ofWindows) is not { } volume) continue;
                entry.Set(element, device.WithHolder(machine.DeviceOf(volume)) ?? machine.DeviceOf(volume));
                details.Add(Remark.Of(
                    "line.device-becomes",
                    Fact.Title.Is(entry.Title ?? entry.Type.Name),
                    Fact.Device.Is($"{device}"),
                    Fact.Volume.Is(volume.Ref),
                    Fact.Identity.Is($"{volume.DiskIdentity}")));
            }
        }

        if (details.Count == 0)
        {
            return finding.Kind != ManagerEntryCheck.StaleVolume && store.Started is { } gone
                ? PreferredOther.Apply(machine, finding, gone)
                : Attempt.Refused("no-such-volume");
        }

        var bytes = store.ToBytes();
        system.Edit(files => files.WriteFile(path, bytes));
        details.Add(StoreRebuild.Changed(path, system, bytes));
        return Attempt.Done(new Step(finding.Link, finding.Id, Remark.Of("step.repoint-entries"), details));
    }

    /// <summary>
    /// Which volume each place means now that Windows entries name and that is not here; null where none does. A Windows that has
    /// an entry is nobody else's, and no two places become one.
    /// </summary>
    private static Dictionary<string, DiskVolume?> SuccessorsOfWindows(Machine machine, BootStore store)
    {
        var owners = store.WindowsEntries
            .Select(entry => (entry.Id, Volume: EntryFit.OwnVolume(machine, entry)))
            .Where(owner => owner.Volume is not null)
            .ToList();
        var places = store.WindowsEntries
            .SelectMany(entry => entry.Elements
                .Where(Element.IsDevice)
                .Select(element => (Entry: entry, Device: entry.Device(element)!)))
            .Select(one => (one.Entry, one.Device, Stale: StalePlace(machine, one.Device)))
            .Where(one => one.Stale is not null && one.Device.AsFile() is null)
            .DistinctBy(one => $"{one.Stale}")
            .Select(one => (one.Entry.Id, Stale: one.Stale!, Volume: Successor(machine, one.Entry, one.Device)))
            .OrderByDescending(one => one.Volume is { } volume && IsAtSamePlace(one.Stale, volume))
            .ToList();
        var map = new Dictionary<string, DiskVolume?>(StringComparer.Ordinal);
        foreach (var (id, stale, volume) in places)
        {
            var isFree = volume is not null
                && !map.ContainsValue(volume)
                && !owners.Exists(owner => owner.Volume == volume && owner.Id != id);
            map[$"{stale}"] = isFree ? volume : null;
        }

        return map;
    }

    private static DiskVolume? NewPlace(
        Machine machine,
        BootEntry entry,
        BootDevice device,
        Dictionary<string, DiskVolume?> ofWindows)
    {
        var isOwn = entry.Type == EntryType.Manager || entry.Type == EntryType.MemoryTest;
        return !isOwn && StalePlace(machine, device) is { } stale && ofWindows.TryGetValue($"{stale}", out var volume)
            ? volume
            : Successor(machine, entry, device);
    }

    /// <summary>The partition that a device names, where it is not here; null where it is, or where it names none.</summary>
    private static BootDevice? StalePlace(Machine machine, BootDevice device)
    {
        var stale = device.AsFile()?.Inner ?? device;
        return stale.IsPartition && machine.VolumeOf(stale) is null ? stale : null;
    }

    private static bool IsAtSamePlace(BootDevice stale, DiskVolume volume) =>
        stale.StartBytes == volume.Partition.Range.Start || stale.PartitionGuid == volume.Partition.Id;

    /// <summary>
    /// The volume that a device must mean whose own is not here: the one that has the entry's folder or program, or the image;
    /// where several have it, the one at the same place on its disk. Null where it is here.
    /// </summary>
    private static DiskVolume? Successor(Machine machine, BootEntry entry, BootDevice device)
    {
        var image = device.AsFile();
        if (StalePlace(machine, device) is not { } stale) return null;
        var candidates = machine.Volumes
            .Where(volume => volume.InFile is null)
            .Where(volume => image is { } file ? volume.Files?.FileExists(file.Path) == true : Fits(machine, entry, volume))
            .ToList();
        return candidates.Count == 1
            ? candidates[0]
            : candidates
                .Where(volume => IsAtSamePlace(stale, volume))
                .ToList() is [var only]
            ? only
            : null;
    }

    private static bool Fits(Machine machine, BootEntry entry, DiskVolume volume)
    {
        if (entry.Type == EntryType.Manager || entry.Type == EntryType.MemoryTest) return volume == machine.SystemVolume;
        if (volume.Files is not { } files) return false;
        if (entry.Type == EntryType.Windows && entry.Text(Element.WindowsFolder) is { } folder)
        {
            return machine.Installations.Any(installation =>
                installation.Volume == volume && IsOrWas(installation, folder.TrimEnd('\\')));
        }

        var file = entry.Text(entry.Type.IsDeviceOptions ? Element.RamdiskFile : Element.ProgramFile);
        return file is not null && files.FileExists(file);
    }

    /// <summary>Whether an installation is in that folder, or remembers it as its own after a renaming.</summary>
    private static bool IsOrWas(WindowsInstallation installation, string folder) =>
        folder.Equals(installation.Folder, StringComparison.OrdinalIgnoreCase)
            || folder.Equals(installation.RememberedFolder, StringComparison.OrdinalIgnoreCase);
}

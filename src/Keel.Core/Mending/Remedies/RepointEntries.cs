using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
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

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system || machine.Store.Store is not { } store)
            return Attempt.Refused("store-unreadable");
        var details = new List<Remark>();
        var path = machine.Store.Path;
        foreach (var entry in store.Entries)
        {
            foreach (var element in entry.Elements.Where(Element.IsDevice).ToList())
            {
                if (entry.Device(element) is not { } device || Successor(machine, entry, device) is not { } volume) continue;
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
            return Attempt.Refused("no-such-volume");

        var bytes = store.ToBytes();
        system.Edit(files => files.WriteFile(path, bytes));
        details.Add(StoreRebuild.Changed(path, system, bytes));
        return Attempt.Done(new Step(finding.Link, finding.Id, Remark.Of("step.repoint-entries"), details));
    }

    /// <summary>
    /// The volume that a device must mean whose own is not here: the one that has the entry's folder or program, or the image;
    /// where several have it, the one at the same place on its disk. Null where it is here.
    /// </summary>
    private static DiskVolume? Successor(Machine machine, BootEntry entry, BootDevice device)
    {
        var image = device.AsFile();
        var stale = image?.Inner ?? device;
        if (!stale.IsPartition || machine.VolumeOf(stale) is not null) return null;
        var candidates = machine.Volumes
            .Where(volume => volume.InFile is null)
            .Where(volume => image is { } file ? volume.Files?.FileExists(file.Path) == true : Fits(machine, entry, volume))
            .ToList();
        return candidates.Count == 1
            ? candidates[0]
            : candidates
                .Where(volume => stale.StartBytes == volume.Partition.Range.Start || stale.PartitionGuid == volume.Partition.Id)
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

using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Mending.Remedies;

/// <summary>Lets entries name the virtual disk file where it lies now, and the volume of Windows in it.</summary>
internal sealed class RepointInside : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [InsideDiskCheck.FileMoved, InsideDiskCheck.VolumeGone];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var attempt = StoreRemedy.Apply(machine, finding, store => Repoint(machine, store));
        return attempt.Step is { } step
            ? Attempt.Done(step with { Details = [.. step.Details, new StepDetail(StoreRebuild.UncheckedForm())] })
            : attempt;
    }

    private static Remark? Repoint(Machine machine, BootStore store)
    {
        var path = "";
        foreach (var entry in store.Entries)
        {
            foreach (var element in entry.Elements.Where(Element.IsDevice).ToList())
            {
                if (entry.Device(element) is not { IsInVirtualDisk: true } device) continue;
                if (machine.VolumeOf(device) is not null) continue;
                if (Successor(machine, device) is not { } now) continue;
                entry.Set(element, now.Device);
                path = now.File;
            }
        }

        return path.Length == 0 ? null : Remark.Of("step.repoint-inside", Fact.Path.Is(path));
    }

    private static (BootDevice Device, string File)? Successor(Machine machine, BootDevice device)
    {
        if (device.AsVirtual() is not { } place) return null;
        var disk = machine.Inside.Disks.FirstOrDefault(known => known.Inside == InsideDiskCheck.Successor(machine, place))
            ?? machine.Inside.Disks.FirstOrDefault(known =>
                known.Inside!.Place.File.Equals(place.File, StringComparison.OrdinalIgnoreCase));
        if (disk is null) return null;
        var volume = disk.Volumes.FirstOrDefault(candidate => place.PartitionGuid is { } id
                ? candidate.Partition.Id == id
                : candidate.Partition.Range.Start == place.StartBytes)
            ?? machine.Installations.FirstOrDefault(installation => installation.Volume.DiskPath == disk.Path)?.Volume;
        return volume is null ? null : (machine.DeviceOf(volume), disk.Inside!.Place.File);
    }
}

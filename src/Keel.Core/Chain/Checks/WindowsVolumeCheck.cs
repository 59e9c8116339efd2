using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Chain.Checks;

/// <summary>The volume that the started entry takes its loader from: whether it can be read, and was properly closed.</summary>
internal sealed class WindowsVolumeCheck : ILinkCheck
{
    public Link Link => Link.WindowsVolume;

    public IReadOnlyList<FindingKind> Kinds =>
        [.. EncryptionHealth.Kinds, .. RecoveryPromptCauses.OfVolume, .. WindowsVolumeHealth.Kinds];

    public LinkReport Check(Machine machine)
    {
        if (machine.Nt5Evidence is not null)
        {
            return machine.Nt5Start.Volume is { } started
                ? Of(machine, started)
                : LinkReport.Unreached("windows-volume.no-entry");
        }

        if (machine.Store is not { Condition: StoreCondition.Loaded, Store: { } store }
            || store.Started is not { } entry)
        {
            var findings = WindowsVolumeHealth.WhereNoneIsKnown(machine);
            return findings.Count > 0
                ? new LinkReport(findings[0].Seen, findings)
                : LinkReport.Unreached("windows-volume.no-entry");
        }

        if (machine.VolumeOf(entry.Device(Element.ProgramVolume)) is not { } volume)
            return LinkReport.Unreached("entry.volume-not-here");
        return Of(machine, volume);
    }

    private static LinkReport Of(Machine machine, DiskVolume volume)
    {
        // A machine that starts by BIOS from this very volume has told of its boot sector before.
        var isToldBefore = machine.Firmware == FirmwareKind.Bios && volume == machine.SystemVolume;
        if (isToldBefore && volume.Kind == FileSystemKind.Unknown)
            return LinkReport.Unreached("volume.files-unreadable", Fact.Volume.Is(volume.Ref));
        var health = WindowsVolumeHealth.Of(machine, volume).ToList();
        return LinkReport.Of(health, Remark.Of(
            "windows-volume.sound",
            Fact.Volume.Is(volume.Ref),
            Fact.FileSystem.Is(FileSystemProbe.Name(volume.Kind))));
    }
}

using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Brings a lost boot sector back from its backup copy, or rebuilds its parameters from the file system.</summary>
internal sealed class RestoreBootSector : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [BootSectorCheck.Wiped, BootSectorCheck.BothGone, WindowsVolumeHealth.SectorWiped];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var volume = finding.Kind == WindowsVolumeHealth.SectorWiped
            ? machine.Volumes.FirstOrDefault(candidate => candidate.Ref == finding.Seen.Facts.Get(Fact.Volume))
            : machine.SystemVolume;
        if (volume is null) return Attempt.Refused("system-volume-not-known");
        var attempt = Restore(machine, volume, finding.Id, terms);
        return attempt.Step is { } step ? Attempt.Done(step with { Link = finding.Link }) : attempt;
    }

    internal static Attempt Restore(Machine machine, DiskVolume volume, string findingId, RepairTerms terms)
    {
        if (BootSectorRescue.FindBackup(volume) is { } backup)
        {
            BootSectorEditor.WriteSector(volume, backup.Kind, backup.Sector);
            return Attempt.Done(new Step(
                Link.BootSector,
                findingId,
                Remark.Of("step.restore-sector", Fact.Volume.Is(volume.Ref)),
                Remark.Of(
                    "line.sector-of-copy",
                    Fact.Volume.Is(volume.Ref),
                    Fact.FileSystem.Is(FileSystemProbe.Name(backup.Kind)))));
        }

        var serial = BitConverter.ToUInt64(terms.NewId().ToByteArray());
        var kind = FileSystemKind.Ntfs;
        var rebuilt = BootSectorRescue.RebuildNtfs(volume, serial);
        if (rebuilt is null)
        {
            kind = FileSystemKind.Fat32;
            rebuilt = BootSectorRescue.RebuildFat32(volume, (uint)serial);
        }

        if (rebuilt is null)
            return Attempt.Refused("sector-nothing-to-rebuild", Fact.Volume.Is(volume.Ref));

        var loader = machine.Nt5Evidence is null ? LoaderKind.BootManager : LoaderKind.Nt5Loader;
        var code = kind == FileSystemKind.Ntfs ? KeelBootCode.Ntfs(loader) : KeelBootCode.Fat32(loader);
        BootSectorEditor.WriteRebuilt(volume, kind, rebuilt, code);
        return Attempt.Done(new Step(
            Link.BootSector,
            findingId,
            Remark.Of(
                "step.rebuild-sector",
                Fact.Volume.Is(volume.Ref),
                Fact.Source.Is(kind == FileSystemKind.Ntfs ? "$MFT" : "FATs")),
            Remark.Of("line.sector-rebuilt", WriteBootSectorCode.LoaderFact(loader))));
    }
}

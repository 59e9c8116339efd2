using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Brings a lost boot sector back from its backup copy, or rebuilds its parameters from the file system.</summary>
internal sealed class RestoreBootSector : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [BootSectorCheck.Wiped, BootSectorCheck.BothGone];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms) =>
        machine.SystemVolume is { } volume ? Restore(machine, volume, finding.Id, terms) : Attempt.Refused("The system volume is not known.", "Name it with --volume.");

    internal static Attempt Restore(Machine machine, DiskVolume volume, string findingId, RepairTerms terms)
    {
        if (BootSectorRescue.FindBackup(volume) is { } backup)
        {
            BootSectorEditor.WriteSector(volume, backup.Kind, backup.Sector);
            return Attempt.Done(new Step(Link.BootSector, findingId, $"Bring the boot sector of {volume} back from its backup copy.", [$"sector 0 of {volume}: {FileSystemProbe.Name(backup.Kind)} parameters and code of the copy"]));
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
        {
            return Attempt.Refused(
                $"Neither a backup copy nor $MFT nor a pair of FATs was found on {volume}.",
                "Make an image of the disk, and have the data recovered from it before anything else.");
        }

        var loader = machine.Nt5Evidence is null ? LoaderKind.BootManager : LoaderKind.Nt5Loader;
        var code = kind == FileSystemKind.Ntfs ? KeelBootCode.Ntfs(loader) : KeelBootCode.Fat32(loader);
        BootSectorEditor.WriteRebuilt(volume, kind, rebuilt, code);
        return Attempt.Done(new Step(
            Link.BootSector,
            findingId,
            $"Rebuild the boot sector of {volume} from its {(kind == FileSystemKind.Ntfs ? "$MFT" : "FATs")}.",
            [$"boot sector and backup copy: parameters as the file system says, new serial number, new code for {(loader == LoaderKind.BootManager ? "the boot manager" : "the NT 5 loader")}"]));
    }
}

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
        machine.SystemVolume is { } volume ? Restore(volume, finding.Id, terms) : Attempt.Refused("The system volume is not known.", "Name it with --volume.");

    internal static Attempt Restore(DiskVolume volume, string findingId, RepairTerms terms)
    {
        if (BootSectorRescue.FindBackup(volume) is { } backup)
        {
            BootSectorEditor.WriteSector(volume, backup.Kind, backup.Sector);
            return Attempt.Done(new Step(Link.BootSector, findingId, $"Bring the boot sector of {volume} back from its backup copy.", [$"sector 0 of {volume}: {FileSystemProbe.Name(backup.Kind)} parameters and code of the copy"]));
        }

        var serial = BitConverter.ToUInt64(terms.NewId().ToByteArray());
        if (BootSectorRescue.RebuildNtfs(volume, serial) is not { } rebuilt)
        {
            return Attempt.Refused(
                $"Neither a backup copy nor $MFT was found on {volume}.",
                "Make an image of the disk, and have the data recovered from it before anything else.");
        }

        KeelBootCode.Ntfs(LoaderKind.BootManager).AsSpan(NtfsBootSector.CodeAt..NtfsBootSector.MarkAt).CopyTo(rebuilt.AsSpan(NtfsBootSector.CodeAt));
        volume.Blocks.Write(NtfsBootSector.Size, KeelBootCode.Ntfs(LoaderKind.BootManager).AsSpan(NtfsBootSector.Size));
        BootSectorEditor.WriteSector(volume, FileSystemKind.Ntfs, rebuilt);
        return Attempt.Done(new Step(
            Link.BootSector,
            findingId,
            $"Rebuild the boot sector of {volume} from its $MFT.",
            [$"boot sector and backup copy: parameters as the file system says, new serial number {serial:X16}, new code for the boot manager"]));
    }
}

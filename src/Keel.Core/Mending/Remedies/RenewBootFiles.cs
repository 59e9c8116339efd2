using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>Recreates boot files that are missing or damaged from the installation's own copies; only those, unless the volume is empty.</summary>
internal sealed class RenewBootFiles : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        ManagerFileCheck.Missing, ManagerFileCheck.Empty, ManagerFileCheck.Folder, ManagerFileCheck.Compressed, ManagerFileCheck.CutShort, ManagerFileCheck.Damaged, ManagerFileCheck.WrongMachine,
        FallbackFileCheck.Missing, FallbackFileCheck.Damaged, SystemVolumeCheck.Formatted
    ];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system) return Attempt.Refused("The system volume is not known.", "Name it with --volume.");
        var fallback = FallbackFile.PathFor(machine.Processor);
        var path = finding.Link == Link.FallbackFile ? fallback : machine.BootFiles.ManagerPath;
        if (BootFileRenewal.BestSource(machine, machine.BootFiles) is not { } source) return FromTwin(machine, system, finding, path, path == fallback ? machine.BootFiles.ManagerPath : fallback);
        var copies = source.FilesFor(machine.BootFiles, machine.Processor);
        if (finding.Kind != SystemVolumeCheck.Formatted) copies = [.. copies.Where(copy => copy.Target.Equals(path, StringComparison.OrdinalIgnoreCase))];
        var lines = BootFileRenewal.Write(system, source, copies, all: finding.Kind != SystemVolumeCheck.Formatted);
        var what = finding.Kind == SystemVolumeCheck.Formatted ? "all boot files" : finding.Link == Link.FallbackFile ? "the fallback file" : "the boot manager";
        return Attempt.Done(new Step(finding.Link, finding.Id, $"Recreate {what} on {system} from the copies in {source.Name}.", lines));
    }

    /// <summary>Manager and fallback file are the same program: where no copy is left, one is made from the other.</summary>
    private static Attempt FromTwin(Machine machine, DiskVolume system, Finding finding, string path, string twin)
    {
        if (machine.Firmware == FirmwareKind.Uefi && system.Files is { } files && ProgramState.Of(system, files, twin, machine.Processor) is { Condition: ProgramCondition.Sound })
        {
            var bytes = files.ReadFile(twin);
            var line = "";
            system.Edit(writable => line = BootFileRenewal.WriteOne(writable, path, bytes));
            return Attempt.Done(new Step(finding.Link, finding.Id, $"Recreate {path} on {system} from {twin}, which is the same program.", [$"{path} on {system}: {line}"]));
        }

        return Attempt.Refused(
            $"No Windows on the disks given has copies of the boot files ({machine.Installations.Count} looked at).",
            "Bring an installation medium of the same Windows, mount it, and run: keel files renew DISK --from FOLDER");
    }
}

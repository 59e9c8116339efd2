using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Builds a new store from the installations found, and sets the old one aside under another name.</summary>
internal sealed class RebuildStore : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
        [StoreCheck.Missing, StoreCheck.Folder, StoreCheck.Truncated, StoreCheck.Damaged, StoreCheck.NoEntries, WindowsEntryCheck.Missing];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system) return Attempt.Refused("The system volume is not known.", "Name it with --volume.");
        if (machine.StoreInstallations.Count == 0)
        {
            return Attempt.Refused(
                $"No Windows installation was found: {machine.Volumes.Count()} volumes were looked at.",
                "If Windows lies on another disk, add it with --with; if its volume is encrypted or damaged, that comes first.");
        }

        var count = machine.StoreInstallations.Count;
        var path = machine.Store.Path;
        var (bytes, lines) = StoreRebuild.Build(machine, system, machine.Store.Store, machine.StoreInstallations, terms);
        var details = lines.ToList();
        system.Edit(files =>
        {
            details.AddRange(StoreRebuild.SetAside(files, path).Select(line => new StepDetail($"{line} on {system}")));
            files.CreateFolder(VolumeExtensions.FolderOf(path));
            files.WriteFile(path, bytes);
            files.SetMarks(path, FileMarks.Archive);
        });
        details.Add($"{path} on {system}: new, {bytes.Length} bytes, {count} Windows {(count == 1 ? "entry" : "entries")}");
        return Attempt.Done(new Step(Link.Store, finding.Id, $"Build a new store on {system} from the {(count == 1 ? "installation" : $"{count} installations")} found.", details));
    }
}

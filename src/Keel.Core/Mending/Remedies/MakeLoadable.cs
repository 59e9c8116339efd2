using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Writes the boot manager anew, with the same contents, so that boot code finds it: under its own short name, and in few pieces.</summary>
internal sealed class MakeLoadable : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [ManagerFileCheck.NotLoadable];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { Files: { } files } system) return Attempt.Refused("The system volume can't be read.", "Name it with --volume.");
        var path = BootFiles.Bios.ManagerPath;
        var (bytes, marks) = (files.ReadFile(path), files.Find(path)!.Marks & FileMarks.Changeable);
        system.Edit(writable =>
        {
            writable.Delete(path);
            writable.WriteFile(path.ToUpperInvariant(), bytes);
            writable.SetMarks(path, marks);
        });
        return Attempt.Done(new Step(finding.Link, finding.Id, $"Write {path} on {system} anew, where boot code finds it.", [$"{path} on {system}: the same {bytes.Length} bytes, under its own short name"]));
    }
}

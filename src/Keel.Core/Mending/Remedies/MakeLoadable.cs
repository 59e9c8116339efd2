using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Writes the boot manager or the NT 5 loader anew, with the same contents, so that boot code finds it: under its own short
/// name, in few pieces, and not packed.
/// </summary>
internal sealed class MakeLoadable : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
        [ManagerFileCheck.NotLoadable, Nt5LoaderCheck.NotLoadable, Nt5LoaderCheck.Compressed];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { Files: { } files } system) return Attempt.Refused("system-volume-unreadable");
        var path = finding.Kind == ManagerFileCheck.NotLoadable ? BootFiles.Bios.ManagerPath : Nt5LoaderCheck.Path;
        var (bytes, marks) = (files.ReadFile(path), files.Find(path)!.Marks & FileMarks.Changeable);
        system.Edit(writable =>
        {
            writable.Delete(path);
            writable.WriteFile(path.ToUpperInvariant(), bytes);
            writable.SetMarks(path, marks);
        });
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.make-loadable", Fact.Path.Is(path), Fact.Volume.Is(system.Ref)),
            Remark.Of("line.same-bytes", Fact.Path.Is(path), Fact.Volume.Is(system.Ref), Fact.SizeBytes.Is(bytes.Length))));
    }
}

using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Writes the boot manager anew, with the same contents, so that boot code finds it: under its own short name, and in few pieces.
/// </summary>
internal sealed class MakeLoadable : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [ManagerFileCheck.NotLoadable];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { Files: { } files } system) return Attempt.Refused("system-volume-unreadable");
        var path = BootFiles.Bios.ManagerPath;
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

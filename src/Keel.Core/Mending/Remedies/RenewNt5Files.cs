using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Mending.Remedies;

/// <summary>Brings the NT 5 loader, or the program by which it looks at the hardware, back from a copy on the machine.</summary>
internal sealed class RenewNt5Files : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
        [Nt5LoaderCheck.Missing, Nt5LoaderCheck.Damaged, DetectFileCheck.Missing, DetectFileCheck.Damaged];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system) return Attempt.Refused("system-volume-not-known");
        var path = finding.Link == Link.LoaderFile ? Nt5LoaderCheck.Path : DetectFileCheck.Path;
        if (Nt5Files.Find(machine, path) is not { } copy) return Attempt.Refused("nt5-no-copy", Fact.Path.Is(path));
        var line = Remark.Of("line.file", Fact.Path.Is(path), Fact.Volume.Is(system.Ref));
        system.Edit(files => line = line.With(Fact.Change.Is(BootFileRenewal.WriteOne(files, path, copy.Bytes))));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of(
                "step.renew-nt5-file",
                Fact.Path.Is(path),
                Fact.Volume.Is(system.Ref),
                Fact.Source.Is(copy.Source)),
            line));
    }
}

using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Mending.Remedies;

/// <summary>Builds boot.ini from the installations found, and sets what was there aside under another name.</summary>
internal sealed class RebuildBootList : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
        [BootListCheck.Missing, BootListCheck.Empty, BootListCheck.Unreadable, BootListCheck.Unused];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system) return Attempt.Refused("system-volume-not-known");
        var installations = machine.Installations.Where(found => found.IsNt5).ToList();
        if (installations.Count == 0) return Attempt.Refused("no-installation", Fact.VolumeCount.Is(machine.Volumes.Count()));
        var list = BootListFile.Build(machine, machine.BootList.List, installations);
        if (list.Lines.Count == 0) return Attempt.Refused("nothing-says");
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.rebuild-boot-list", Fact.Volume.Is(system.Ref), Fact.InstallationCount.Is(installations.Count)),
            BootListFile.Write(system, list, setAside: true)));
    }
}

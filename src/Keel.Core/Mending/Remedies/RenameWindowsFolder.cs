using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Mending.Remedies;

/// <summary>Gives the folder of Windows back the name that its entry and its own hives know it by.</summary>
internal sealed class RenameWindowsFolder : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [WindowsEntryCheck.FolderRenamed];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var facts = finding.Seen.Facts;
        if (facts.Get(Fact.OtherPath) is not { } now
            || facts.Get(Fact.Folder)?.TrimEnd('\\') is not { } before
            || machine.Installations.FirstOrDefault(found => found.Folder == now) is not { Volume: { } volume })
        {
            return Attempt.Refused("nothing-says");
        }

        volume.Edit(files => files.Rename(now, before.TrimStart('\\')));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.rename-folder", Fact.Path.Is(now), Fact.OtherPath.Is(before), Fact.Volume.Is(volume.Ref)),
            Remark.Of("line.hives-remember", Fact.Path.Is(before))));
    }
}

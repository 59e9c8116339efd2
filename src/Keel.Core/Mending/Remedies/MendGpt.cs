using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;

namespace Keel.Core.Mending.Remedies;

/// <summary>Mends a GPT: a damaged or misplaced copy from the other, and the protective master boot record.</summary>
internal sealed class MendGpt : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        DiskLayoutCheck.PrimaryDamaged,
        DiskLayoutCheck.BackupDamaged,
        DiskLayoutCheck.BackupMisplaced,
        DiskLayoutCheck.ProtectiveMissing,
        DiskLayoutCheck.Overwritten
    ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var overlay = machine.StartDisk.Overlay;
        if (finding.Kind == DiskLayoutCheck.ProtectiveMissing || finding.Kind == DiskLayoutCheck.Overwritten)
        {
            GptEditor.WriteProtective(overlay);
            return Attempt.Done(
                new Step(Link.DiskLayout, finding.Id, Remark.Of("step.write-protective"), Remark.Of("line.protective-slot")));
        }

        if (machine.StartDisk.Layout.Has(LayoutProblemKind.PastEnd))
            return Attempt.Refused("gpt-past-end");
        return GptEditor.RewriteBothCopies(overlay) switch
        {
            GptEditResult.Done => Attempt.Done(new Step(
                Link.DiskLayout,
                finding.Id,
                Remark.Of("step.rewrite-gpt"),
                Remark.Of("line.partitions-stay"))),
            GptEditResult.CopiesDiffer => Attempt.Refused("gpt-copies-differ"),
            GptEditResult.NoRoom => Attempt.Refused("gpt-no-room"),
            _ => Attempt.Refused("gpt-no-sound-copy")
        };
    }
}

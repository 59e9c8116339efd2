using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Layout;

namespace Keel.Core.Mending.Remedies;

/// <summary>Mends a GPT: a damaged or misplaced copy from the other, and the protective master boot record.</summary>
internal sealed class MendGpt : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [DiskLayoutCheck.PrimaryDamaged, DiskLayoutCheck.BackupDamaged, DiskLayoutCheck.BackupMisplaced, DiskLayoutCheck.ProtectiveMissing];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var overlay = machine.StartDisk.Overlay;
        if (finding.Kind == DiskLayoutCheck.ProtectiveMissing)
        {
            GptEditor.WriteProtective(overlay);
            return Attempt.Done(new Step(Link.DiskLayout, finding.Id, "Write the protective master boot record.", ["sector 0: one slot over the whole disk, type ee; code and signature stay"]));
        }

        if (machine.StartDisk.Layout.Has(LayoutProblemKind.PastEnd))
            return Attempt.Refused("Partitions end beyond the disk, so its end is not where the backup table belongs.", "If this is an image, compare its size with the disk's: it is cut short. A smaller disk wants a layout of its own first.");
        return GptEditor.RewriteBothCopies(overlay) switch
        {
            GptEditResult.Done => Attempt.Done(new Step(Link.DiskLayout, finding.Id, "Write both copies of the GPT anew from the sound one.", ["the partitions and their GUIDs stay as they are"])),
            GptEditResult.CopiesDiffer => Attempt.Refused(CopiesDiffer, CopiesDifferTodo),
            GptEditResult.NoRoom => Attempt.Refused(NoRoom, "Shrink that partition by a few MiB with the system that uses it, or copy the disk to a larger one; the table mends itself then."),
            _ => Attempt.Refused("Neither copy of the GPT is sound.", "Bring the table back from a saved copy.")
        };
    }

    internal const string CopiesDiffer = "The two copies of the GPT name different partitions, and neither can be told to be the right one.";
    internal const string CopiesDifferTodo = "Compare both with the file systems that are on the disk, and bring the right one back with a partition program.";

    /// <summary>A disk that was copied to one that is a little shorter.</summary>
    internal const string NoRoom = "A partition stands where a copy of the table belongs, at an end of the disk: nothing is written over a partition.";
}

using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Mends the EFI system partition itself: its type, its boot sector, its tables. What it can't mend is formatted only when that
/// is asked for.
/// </summary>
internal sealed class MendEfiVolume : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        SystemVolumeCheck.WrongType,
        SystemVolumeCheck.NoFileSystem,
        SystemVolumeCheck.Damaged,
        SystemVolumeCheck.CopiesDiffer
    ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system) return Attempt.Refused("system-volume-not-known");
        if (finding.Kind == SystemVolumeCheck.WrongType) return SetType(machine, system, finding);
        if (finding.Kind == SystemVolumeCheck.NoFileSystem)
        {
            return BootSectorRescue.FindBackup(system) is { Kind: FileSystemKind.Fat32 }
                ? RestoreBootSector.Restore(machine, system, finding.Id, terms)
                : MakeEfiVolume.Format(machine, system, finding.Id, terms);
        }

        var health = FatHealth.Of(system.Blocks, system.ToString());
        if (!health.CopiesDiffer || !health.BestIsSound)
            return Attempt.Refused(health.CopiesDiffer ? "esp-both-tables-bad" : "esp-tables-alike");
        FatHealth.SpreadCopy(system.Blocks, health.BestCopy);
        var isFirst = Fact.IsFirst.Is(health.BestCopy == 0);
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.spread-fat", Fact.Volume.Is(system.Ref), isFirst),
            Remark.Of("line.fat-leads-to-all", isFirst)));
    }

    private static Attempt SetType(Machine machine, DiskVolume system, Finding finding)
    {
        if (machine.StartDisk.Layout.Scheme != PartitionScheme.Gpt) return Attempt.Refused("esp-of-mbr");
        var before = system.Partition.TypeName;
        return GptEditor.SetType(machine.StartDisk.Overlay, system.Number, PartitionTypes.GptEfiSystem) switch
        {
            GptEditResult.Done => Attempt.Done(new Step(
                finding.Link,
                finding.Id,
                Remark.Of("step.mark-esp", Fact.Volume.Is(system.Ref)),
                Remark.Of("line.type-becomes-esp", Fact.Partition.Is(system.Number), Fact.Before.Is(before)))),
            GptEditResult.CopiesDiffer => Attempt.Refused("gpt-copies-differ"),
            GptEditResult.NoRoom => Attempt.Refused("gpt-no-room.type"),
            _ => Attempt.Refused("gpt-no-sound-copy")
        };
    }
}

using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Layout;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;

namespace Keel.Core.Mending.Remedies;

/// <summary>Mends the EFI system partition itself: its type, its boot sector, its tables. What it can't mend is formatted only when that is asked for.</summary>
internal sealed class MendEfiVolume : IRemedy
{
    private const string FormatTodo = "Format it and recreate its files: keel files renew DISK --format (it shows first what would be lost)";

    public IReadOnlyList<FindingKind> Mends => [SystemVolumeCheck.WrongType, SystemVolumeCheck.NoFileSystem, SystemVolumeCheck.Damaged, SystemVolumeCheck.CopiesDiffer];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system) return Attempt.Refused("The system volume is not known.", "'keel survey' shows the volumes.");
        if (finding.Kind == SystemVolumeCheck.WrongType) return SetType(machine, system, finding);
        if (finding.Kind == SystemVolumeCheck.NoFileSystem)
        {
            return BootSectorRescue.FindBackup(system) is { Kind: FileSystemKind.Fat32 }
                ? RestoreBootSector.Restore(machine, system, finding.Id, terms)
                : Attempt.Refused("Neither a FAT file system nor a backup copy of its boot sector is there.", FormatTodo);
        }

        var health = FatHealth.Of(system.Blocks, system.ToString());
        if (!health.CopiesDiffer || !health.BestIsSound)
            return Attempt.Refused(health.CopiesDiffer ? "Neither of its two tables leads to every file." : "Its two tables are alike, so neither can mend the other.", FormatTodo);
        FatHealth.SpreadCopy(system.Blocks, health.BestCopy);
        var (good, bad) = health.BestCopy == 0 ? ("first", "second") : ("second", "first");
        return Attempt.Done(new Step(finding.Link, finding.Id, $"Write the {good} table of {system} over the {bad}.", [$"the {good} one leads to every file; files stay as they are"]));
    }

    private static Attempt SetType(Machine machine, DiskVolume system, Finding finding)
    {
        if (machine.StartDisk.Layout.Scheme != PartitionScheme.Gpt) return Attempt.Refused("The old partition table has another way to mark it.", "Set its type to EF with a partition program.");
        var before = system.Partition.TypeName;
        return GptEditor.SetType(machine.StartDisk.Overlay, system.Number, PartitionTypes.GptEfiSystem) switch
        {
            GptEditResult.Done => Attempt.Done(new Step(finding.Link, finding.Id, $"Mark {system} as EFI system partition.", [$"type of partition {system.Number}: {before} becomes EFI system, in both copies of the GPT"])),
            GptEditResult.CopiesDiffer => Attempt.Refused(MendGpt.CopiesDiffer, MendGpt.CopiesDifferTodo),
            GptEditResult.NoRoom => Attempt.Refused(MendGpt.NoRoom, "Set the type of the partition with a partition program, once there is room."),
            _ => Attempt.Refused("Neither copy of the GPT is sound.", "Bring the table back from a saved copy.")
        };
    }
}

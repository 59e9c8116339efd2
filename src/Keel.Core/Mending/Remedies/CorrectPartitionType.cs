using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Gives the partition of Windows the type that Windows takes up.</summary>
internal sealed class CorrectPartitionType : IRemedy
{
    private const byte Fat12 = 0x01, Fat16Lba = 0x0E, Fat32Lba = 0x0C;

    public IReadOnlyList<FindingKind> Mends => [DiskLayoutCheck.WrongType, DiskLayoutCheck.ProtectiveType];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (finding.Seen.Facts.Get(Fact.Volume) is not { } place
            || machine.StartDisk.Volumes.FirstOrDefault(volume => volume.Ref == place) is not { } found)
        {
            return Attempt.Refused("system-volume-not-known");
        }

        var type = found.Kind switch
        {
            FileSystemKind.Fat12 => Fat12,
            FileSystemKind.Fat16 => Fat16Lba,
            FileSystemKind.Fat32 => Fat32Lba,
            _ => PartitionTypes.Ntfs
        };
        return Set(machine.StartDisk, found, type, PartitionTypes.GptBasicData, finding.Id);
    }

    /// <summary>Sets the type of a partition in the table that the disk has.</summary>
    internal static Attempt Set(MachineDisk disk, DiskVolume volume, byte mbrType, Guid gptType, string findingId)
    {
        var before = volume.Partition.TypeName;
        if (disk.Layout.Scheme == PartitionScheme.Gpt)
        {
            return GptEditor.SetType(disk.Overlay, volume.Number, gptType) switch
            {
                GptEditResult.Done => Attempt.Done(Step(volume, before, PartitionTypes.Name(gptType), findingId)),
                GptEditResult.CopiesDiffer => Attempt.Refused("gpt-copies-differ"),
                GptEditResult.NoRoom => Attempt.Refused("gpt-no-room.type"),
                _ => Attempt.Refused("gpt-no-sound-copy")
            };
        }

        var isLogical = volume.Partition.Logical;
        var firstSector = volume.Partition.Range.Start / disk.Overlay.SectorBytes;
        if ((isLogical ? LogicalLink.Before(disk.Overlay, firstSector)?.Sector : 0) is not { } sector)
            return Attempt.Refused("table-link-not-found", Fact.Volume.Is(volume.Ref));
        var at = sector * disk.Overlay.SectorBytes;
        var record = new MasterBootRecord(disk.Overlay.ReadBytes(at, MasterBootRecord.Size));
        record.SetType(isLogical ? 0 : volume.Number - 1, mbrType);
        disk.Overlay.Write(at, record.ToBytes());
        return Attempt.Done(Step(volume, before, PartitionTypes.Name(mbrType), findingId));
    }

    private static Step Step(DiskVolume volume, string before, string after, string findingId) => new(
        Link.DiskLayout,
        findingId,
        Remark.Of("step.set-type", Fact.Volume.Is(volume.Ref), Fact.Type.Is(after)),
        Remark.Of("line.type-becomes", Fact.Partition.Is(volume.Number), Fact.Before.Is(before), Fact.After.Is(after)));
}

using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;

namespace Keel.Core.Mending.Remedies;

/// <summary>Takes the marks off the partition of Windows by which Windows itself would not write to it, or pass it by.</summary>
internal sealed class ClearAttributes : IRemedy
{
    private const ulong InTheWay = Partition.ReadOnlyAttribute | Partition.HiddenAttribute;

    public IReadOnlyList<FindingKind> Mends => [DiskLayoutCheck.ReadOnly];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var disk = machine.StartDisk;
        if (finding.Seen.Facts.Get(Fact.Volume) is not { } place
            || disk.Volumes.FirstOrDefault(volume => volume.Ref == place) is not { } volume)
        {
            return Attempt.Refused("system-volume-not-known");
        }

        return GptEditor.SetAttributes(disk.Overlay, volume.Number, volume.Partition.Attributes & ~InTheWay) switch
        {
            GptEditResult.Done => Attempt.Done(new Step(
                finding.Link,
                finding.Id,
                Remark.Of("step.clear-attributes", Fact.Volume.Is(volume.Ref)),
                Remark.Of(
                    "line.attributes-cleared",
                    Fact.Partition.Is(volume.Number),
                    Fact.Attributes.Is(finding.Seen.Facts.Get(Fact.Attributes) ?? "")))),
            GptEditResult.CopiesDiffer => Attempt.Refused("gpt-copies-differ"),
            GptEditResult.NoRoom => Attempt.Refused("gpt-no-room.type"),
            _ => Attempt.Refused("gpt-no-sound-copy")
        };
    }
}

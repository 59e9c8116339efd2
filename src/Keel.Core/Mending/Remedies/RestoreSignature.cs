using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;

namespace Keel.Core.Mending.Remedies;

/// <summary>Puts a disk's lost signature back, four bytes of the master boot record.</summary>
internal sealed class RestoreSignature : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [LostSignatures.Kind];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var path = finding.Seen.Facts.Get(Fact.Disk);
        if (machine.Disks.FirstOrDefault(disk => disk.Path == path) is not { } lost
            || LostSignatures.RememberedFor(machine, lost) is not { } signature)
        {
            return Attempt.Refused("nothing-says");
        }

        return machine.Disks.FirstOrDefault(disk => disk.Layout.Identity == DiskIdentity.OfMbr(signature)) is { } other
            ? Attempt.Refused("signature-taken", Fact.Signature.Is($"{signature:x8}"), Fact.OtherDisk.Is(other.Path))
            : Attempt.Done(Write(lost, signature, finding.Id));
    }

    /// <summary>Writes a disk's signature, and nothing else.</summary>
    internal static Step Write(MachineDisk disk, uint signature, string findingId)
    {
        var record = new MasterBootRecord(disk.Overlay.ReadBytes(0, MasterBootRecord.Size));
        var before = record.Signature;
        record.Signature = signature;
        disk.Overlay.Write(0, record.ToBytes());
        return new Step(
            Link.DiskLayout,
            findingId,
            Remark.Of("step.write-signature", Fact.Disk.Is(disk.Path), Fact.Signature.Is($"{signature:x8}")),
            Remark.Of("line.signature-bytes", Fact.Before.Is($"{before:x8}"), Fact.After.Is($"{signature:x8}")));
    }
}

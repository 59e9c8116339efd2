using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;

namespace Keel.Core.Mending.Remedies;

/// <summary>Writes code and mark of the master boot record; disk signature and table stay.</summary>
internal sealed class WriteMbrCode : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        MbrCodeCheck.MarkMissing,
        MbrCodeCheck.Wiped,
        MbrCodeCheck.Foreign,
        MbrCodeCheck.Unknown
    ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if ((finding.Kind == MbrCodeCheck.Foreign || finding.Kind == MbrCodeCheck.Unknown) && !terms.ReplaceForeign)
            return Attempt.Refused("foreign-code", Fact.Reason.Is(finding.Seen));

        return Attempt.Done(Write(machine, finding.Kind == MbrCodeCheck.MarkMissing ? null : KeelBootCode.Mbr(), finding.Id));
    }

    /// <summary>Writes the mark, and the code where it is given.</summary>
    internal static Step Write(Machine machine, byte[]? code, string findingId)
    {
        var overlay = machine.StartDisk.Overlay;
        var record = new MasterBootRecord(overlay.ReadBytes(0, MasterBootRecord.Size)) { HasMark = true };
        if (code is not null) record.SetCode(code);
        overlay.Write(0, record.ToBytes());
        return new Step(
            Link.MbrCode,
            findingId,
            Remark.Of(code is null ? "step.write-mbr-mark" : "step.write-mbr-code"),
            Remark.Of("line.mbr-stays", Fact.Disk.Is(machine.StartDisk.Path), Fact.Signature.Is($"{record.Signature:x8}")));
    }
}

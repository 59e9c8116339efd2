using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Layout;

namespace Keel.Core.Mending.Remedies;

/// <summary>Writes code and mark of the master boot record; disk signature and table stay.</summary>
internal sealed class WriteMbrCode : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [MbrCodeCheck.MarkMissing, MbrCodeCheck.Wiped, MbrCodeCheck.Foreign, MbrCodeCheck.Unknown];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if ((finding.Kind == MbrCodeCheck.Foreign || finding.Kind == MbrCodeCheck.Unknown) && !terms.ReplaceForeign)
        {
            return Attempt.Refused(
                $"{char.ToUpperInvariant(finding.Evidence[0])}{finding.Evidence[1..]}; replacing it could take another system's start away.",
                "If only Windows is to start from this disk, run the same command with --replace-foreign.");
        }

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
            code is null ? "Write 55 AA at the end of the master boot record." : "Write new code into the master boot record.",
            [$"sector 0 of {machine.StartDisk.Path}: disk signature {record.Signature:x8} and the table stay as they are"]);
    }
}

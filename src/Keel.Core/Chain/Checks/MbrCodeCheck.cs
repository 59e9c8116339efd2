using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;

namespace Keel.Core.Chain.Checks;

/// <summary>The code of the master boot record, whose it is, and the mark that makes firmware start it.</summary>
internal sealed class MbrCodeCheck : ILinkCheck
{
    public static readonly FindingKind MarkMissing = new(
        "mbr-mark-missing",
        Link.MbrCode,
        Severity.Error,
        "The master boot record does not end with 55 AA, so firmware passes it by.",
        StartupScreens.NoBootDevice);

    public static readonly FindingKind Wiped = new(
        "mbr-code-wiped",
        Link.MbrCode,
        Severity.Error,
        "The master boot record has no code.",
        StartupScreens.BlinkingCursor,
        StartupScreens.NoBootDevice);

    public static readonly FindingKind Foreign = new(
        "foreign-mbr-code",
        Link.MbrCode,
        Severity.Warning,
        "Another system's boot loader stands in the master boot record.",
        StartupScreens.BlinkingCursor,
        StartupScreens.NoBootDevice,
        StartupScreens.NotFound);

    public static readonly FindingKind Unknown = new(
        "mbr-code-unknown",
        Link.MbrCode,
        Severity.Warning,
        "The code in the master boot record is not known here; it may be damaged.",
        StartupScreens.BlinkingCursor);

    public Link Link => Link.MbrCode;

    public IReadOnlyList<FindingKind> Kinds => [MarkMissing, Wiped, Foreign, Unknown];

    public LinkReport Check(Machine machine)
    {
        if (machine.StartDisk.Overlay.TryRead(0, MasterBootRecord.Size) is not { } sector)
            return LinkReport.Unreached("mbr-code.unreadable");
        if (machine.StartDisk.Layout.Scheme != PartitionScheme.Mbr) return LinkReport.Unreached("mbr-code.no-table");
        var record = new MasterBootRecord(sector);
        var reading = CodeRecognizer.OfMbr(record.Code);
        var findings = new List<Finding>();
        if (!record.HasMark) findings.Add(MarkMissing.At());
        switch (reading.Owner)
        {
            case CodeOwner.Blank:
                findings.Add(Wiped.At());
                break;
            case CodeOwner.Foreign:
                findings.Add(Foreign.At(Fact.Code.Is(reading.Name)));
                break;
            case CodeOwner.Unknown:
                findings.Add(Unknown.At());
                break;
            default:
                break;
        }

        return LinkReport.Of(findings, Remark.Of("mbr-code.sound", Fact.Code.Is(reading.Name)));
    }
}

using Keel.Core.Blocks;
using Keel.Core.Layout;

namespace Keel.Core.Chain.Checks;

/// <summary>The code of the master boot record and the mark that makes firmware start it.</summary>
internal sealed class MbrCodeCheck : ILinkCheck
{
    public static readonly FindingKind MarkMissing = new("mbr-mark-missing", Link.MbrCode, Severity.Error, "The master boot record does not end with 55 AA, so firmware passes it by.", Screens.NoBootDevice);
    public static readonly FindingKind Wiped = new("mbr-code-wiped", Link.MbrCode, Severity.Error, "The master boot record has no code.", Screens.BlinkingCursor, Screens.NoBootDevice);

    public Link Link => Link.MbrCode;

    public LinkReport Check(Machine machine)
    {
        if (machine.StartDisk.Overlay.TryRead(0, MasterBootRecord.Size) is not { } sector) return LinkReport.Unreached("the first sector can't be read");
        var record = new MasterBootRecord(sector);
        var findings = new List<Finding>();
        if (!record.HasMark) findings.Add(MarkMissing.At("bytes 510 and 511 of the first sector are not 55 AA"));
        if (record.Code.IndexOfAnyExcept((byte)0) < 0) findings.Add(Wiped.At("the first 440 bytes of the disk are zero"));
        return LinkReport.Of(findings.Count == 0 ? "boot code and 55 AA are there" : findings[0].Evidence, findings);
    }
}

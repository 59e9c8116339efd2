using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Chain.Checks.Session;

/// <summary>
/// What comes between the kernel and the desktop: the session manager, its programs and libraries, the other hives, the sign-in.
/// </summary>
internal sealed class SessionCheck : ILinkCheck
{
    public Link Link => Link.Session;

    public IReadOnlyList<FindingKind> Kinds =>
    [
        .. SessionFiles.Kinds, .. SessionHives.Kinds, .. SetupState.Kinds, .. StartDebuggers.Kinds, .. WindowsLetter.Kinds,
        .. LogonCheck.Kinds, .. ProfileList.Kinds, .. WindowsRoom.Kinds, .. HistoryFindings.Kinds
    ];

    public LinkReport Check(Machine machine)
    {
        var (windows, why) = StartedWindows.Of(machine);
        if (windows is null) return LinkReport.Unreached(why);
        var (files, looked) = SessionFiles.Of(machine, windows);
        List<Finding> findings =
        [
            .. files,
            .. SessionHives.Of(machine, windows),
            .. SetupState.Of(machine, windows),
            .. StartDebuggers.Of(windows),
            .. WindowsLetter.Of(machine, windows),
            .. LogonCheck.Of(machine, windows),
            .. ProfileList.Of(windows),
            .. WindowsRoom.Of(windows),
            .. HistoryFindings.Of(machine, windows)
        ];
        var worst = findings.Find(finding => finding.Kind.Severity == Severity.Error)
            ?? findings.Find(finding => finding.Kind.Severity == Severity.Warning);
        return new LinkReport(worst?.Seen ?? Sound(windows, looked), findings);
    }

    private static Remark Sound(StartedWindows windows, int looked) => looked == 0
        ? Remark.Of("session.no-files", Fact.Folder.Is(windows.System32), Fact.Volume.Is(windows.Volume.Ref))
        : Remark.Of(
            "session.sound",
            Fact.FileCount.Is(looked),
            Fact.Folder.Is(windows.System32),
            Fact.Volume.Is(windows.Volume.Ref));
}

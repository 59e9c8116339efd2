using System.Text;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks.Session;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>Lets Windows run the usual programs between kernel and desktop again, by a change of that one value.</summary>
internal sealed class CorrectLogon : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [LogonCheck.ShellWrong, LogonCheck.UserinitWrong, LogonCheck.BootExecuteWrong];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (StartedWindows.Of(machine).Windows is not { } windows) return Attempt.Refused("windows-not-reached");
        var paths = LogonCheck.PathsOf(machine, windows);
        var (hive, key, value, usual) = finding.Kind == LogonCheck.BootExecuteWrong
            ? (
                windows.SystemHivePath,
                $@"{machine.SystemHive?.ControlSet}\{LogonSettings.SessionKey}",
                "BootExecute",
                LogonSettings.UsualBootExecute)
            : (
                $@"{windows.System32}\config\SOFTWARE",
                LogonSettings.WinlogonKey,
                finding.Kind == LogonCheck.ShellWrong ? "Shell" : "Userinit",
                finding.Kind == LogonCheck.ShellWrong
                    ? LogonSettings.UsualShell
                    : $@"{paths.Letter}:{windows.Folder}\system32\userinit.exe,");
        var program = finding.Kind == LogonCheck.ShellWrong ? $@"{windows.Folder}\explorer.exe"
            : finding.Kind == LogonCheck.UserinitWrong ? $@"{windows.System32}\userinit.exe"
            : $@"{windows.System32}\autochk.exe";
        if (!windows.Files.FileExists(program)) return Attempt.Refused("logon-program-gone", Fact.Path.Is(program));
        if (RegistryChanges.WhyNot(windows.Files, hive) is { } why)
            return Attempt.Refused("hive-not-changed", Fact.Reason.Is(why));

        var data = Encoding.Unicode.GetBytes(usual + (value == "BootExecute" ? "\0\0" : "\0"));
        windows.Volume.Edit(files => RegistryChanges.SetData(files, hive, key, value, data));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.correct-logon", Fact.Setting.Is(value), Fact.Said.Is(usual)),
            Remark.Of(
                "line.hive-value",
                Fact.Path.Is(hive),
                Fact.Volume.Is(windows.Volume.Ref),
                Fact.Setting.Is($@"{key}\{value}"))));
    }
}

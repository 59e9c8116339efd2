using System.Text;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Drills;

/// <summary>Faults behind the kernel: Windows starts, and nobody can work with it.</summary>
internal static class LogonFaults
{
    private const string Software = @"\Windows\System32\config\SOFTWARE", System = @"\Windows\System32\config\SYSTEM";

    public static readonly IReadOnlyList<Fault> All =
    [
        new(
            "logon-shell-wrong",
            "BF-1153",
            "Kiosk, {0}",
            "One can sign in, and then it stays black. Only the mouse is there.",
            machine => Set(machine, Software, LogonSettings.WinlogonKey, "Shell", @"C:\ProgramData\timetable\wall.exe", "\0")),
        new(
            "userinit-wrong",
            "BF-1154",
            "Night purser, {0}",
            "It lets me in and throws me out again. It was after the virus was removed.",
            machine => Set(machine, Software, LogonSettings.WinlogonKey, "Userinit", @"C:\Windows\system32\us3rinit.exe,", "\0")),
        new(
            "boot-execute-wrong",
            "BF-1155",
            "Back office, {0}",
            "Something with tidesweep on a blue page each time, before the logo. We took that program off months ago.",
            machine => Set(
                machine,
                System,
                $@"ControlSet001\{LogonSettings.SessionKey}",
                "BootExecute",
                $"{LogonSettings.UsualBootExecute}\0tidesweep",
                "\0\0"))
    ];

    private static void Set(Machine machine, string hive, string key, string name, string text, string end) =>
        machine.Installations[0].Volume.Edit(files =>
            RegistryChanges.SetData(files, hive, key, name, Encoding.Unicode.GetBytes(text + end)));
}

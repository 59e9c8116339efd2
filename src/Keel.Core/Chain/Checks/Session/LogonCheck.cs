using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks.Session;

/// <summary>
/// What is run between the kernel and the desktop: where one of these is wrong, Windows starts and is of no use.
/// </summary>
internal static class LogonCheck
{
    public static readonly FindingKind ShellWrong = new(
        "logon-shell-wrong",
        Link.Session,
        Severity.Warning,
        "The program that shows the desktop is not there.",
        StartupScreens.BlackAfterSignIn);

    public static readonly FindingKind ShellOther = new(
        "logon-shell-other",
        Link.Session,
        Severity.Note,
        "Another program than the usual one shows the desktop.");

    public static readonly FindingKind UserinitWrong = new(
        "userinit-wrong",
        Link.Session,
        Severity.Warning,
        "A program that signs users in is not there, or is not named.",
        StartupScreens.SignInEnds,
        StartupScreens.BlackAfterSignIn);

    public static readonly FindingKind BootExecuteWrong = new(
        "boot-execute-wrong",
        Link.Session,
        Severity.Warning,
        "A program that the session manager runs first is not there.");

    public static readonly FindingKind BootExecuteOther = new(
        "boot-execute-other",
        Link.Session,
        Severity.Note,
        "The session manager runs more than the usual check of the disks.");

    public static IReadOnlyList<FindingKind> Kinds =>
    [
        ShellWrong, ShellOther, UserinitWrong, BootExecuteWrong, BootExecuteOther
    ];

    private const int MostPrograms = 32, LongestSaid = 200;

    /// <summary>What is wrong or unusual.</summary>
    public static IReadOnlyList<Finding> Of(Machine machine, StartedWindows windows)
    {
        try
        {
            return [.. Look(machine, windows)];
        }
        catch (KeelException)
        {
            return [];          // what a damaged volume does not give is told by the links before
        }
    }

    private static IEnumerable<Finding> Look(Machine machine, StartedWindows windows)
    {
        var settings = LogonSettings.Read(windows.Files, windows.Folder, machine.SystemHive);
        var paths = PathsOf(machine, windows);
        Finding?[] findings = [OfShell(settings, paths), OfUserinit(settings, paths), OfBootExecute(settings, windows)];
        return findings.OfType<Finding>();
    }

    /// <summary>Where programs of a Windows lie.</summary>
    public static ProgramPaths PathsOf(Machine machine, StartedWindows windows)
    {
        var installation = windows.InstallationIn(machine);
        return new ProgramPaths(windows.Files, windows.Folder, installation?.SystemLetter ?? 'C');
    }

    private static Finding? OfShell(LogonSettings settings, ProgramPaths paths)
    {
        if (settings.Shell is not { } shell) return null;
        if (shell.Trim().Equals(LogonSettings.UsualShell, StringComparison.OrdinalIgnoreCase)) return null;
        var said = Said(shell);
        return shell.Trim().Length == 0 || paths.IsThere(shell) == false ? ShellWrong.At(said) : ShellOther.At(said);
    }

    private static Finding? OfUserinit(LogonSettings settings, ProgramPaths paths)
    {
        if (settings.Userinit is not { } userinit) return null;
        var programs = userinit
            .Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Take(MostPrograms)
            .ToList();
        return programs.Any(IsUsual) && programs.All(program => IsUsual(program) || paths.IsThere(program) != false)
            ? null
            : UserinitWrong.At(Said(userinit));

        static bool IsUsual(string program) => program.EndsWith("userinit.exe", StringComparison.OrdinalIgnoreCase)
            || program.Equals("userinit", StringComparison.OrdinalIgnoreCase);
    }

    private static Finding? OfBootExecute(LogonSettings settings, StartedWindows windows)
    {
        if (settings.BootExecute is not { } list) return null;
        var commands = list.Where(command => command.Trim().Length > 0).Take(MostPrograms).ToList();
        var said = Said(string.Join("; ", commands));
        if (commands.Exists(command => !IsThere(windows, command))) return BootExecuteWrong.At(said);
        return commands.TrueForAll(IsCheckOfDisks) ? null : BootExecuteOther.At(said);
    }

    /// <summary>As much of a value as is worth showing.</summary>
    private static KnownFact Said(string text) =>
        Fact.Said.Is(Short(text));

    /// <summary>As much of a text of a hive as is worth showing.</summary>
    public static string Short(string text) => text.Length <= LongestSaid ? text : text[..LongestSaid] + "...";

    private static bool IsCheckOfDisks(string command) =>
        command.TrimStart().StartsWith("autocheck", StringComparison.OrdinalIgnoreCase);

    /// <summary>Programs of the session manager lie in System32.</summary>
    private static bool IsThere(StartedWindows windows, string command)
    {
        if (IsCheckOfDisks(command)) return true;
        var program = command.Split(' ', StringSplitOptions.RemoveEmptyEntries)[0];
        var path = $@"{windows.System32}\{program}";
        return windows.Files.FileExists(path) || windows.Files.FileExists(path + ".exe");
    }
}

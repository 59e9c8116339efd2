using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks.Session;

/// <summary>A program of the start that Windows hands to a "debugger" instead of starting it.</summary>
internal static class StartDebuggers
{
    public static readonly FindingKind OnStart = new(
        "debugger-on-start-program",
        Link.Session,
        Severity.Error,
        "A program that Windows needs is handed to another program instead of being started.",
        StartupScreens.ProcessTerminated,
        StartupScreens.BlackAfterSignIn);

    public static readonly FindingKind OnSignIn = new(
        "debugger-on-sign-in-program",
        Link.Session,
        Severity.Warning,
        "A program of the sign-in, or the desktop, is handed to another program instead of being started.",
        StartupScreens.BlackAfterSignIn,
        StartupScreens.SignInEnds);

    /// <summary>The key with a subkey for each such program, in the SOFTWARE hive.</summary>
    public const string OptionsKey = @"Microsoft\Windows NT\CurrentVersion\Image File Execution Options";

    /// <summary>The value that names the other program.</summary>
    public const string Value = "Debugger";

    private static readonly string[] Start =
        ["smss.exe", "csrss.exe", "wininit.exe", "winlogon.exe", "services.exe", "lsass.exe", "svchost.exe"];

    private static readonly string[] SignIn = ["LogonUI.exe", "userinit.exe", "explorer.exe"];

    public static IReadOnlyList<FindingKind> Kinds => [OnStart, OnSignIn];

    public static IEnumerable<Finding> Of(StartedWindows windows)
    {
        if (InstallationFinder.TryKey(windows.Files, windows.SoftwareHivePath, OptionsKey) is not { } options) yield break;
        foreach (var (names, kind) in ((string[], FindingKind)[])[(Start, OnStart), (SignIn, OnSignIn)])
        {
            foreach (var name in names)
            {
                if (options.Find(name)?.Value(Value)?.AsText()?.Trim() is { Length: > 0 } debugger)
                    yield return kind.At(Fact.Title.Is(name), Fact.Said.Is(LogonCheck.Short(debugger)));
            }
        }
    }
}

using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks.Session;

/// <summary>A setup of Windows that has not come to its end.</summary>
internal static class SetupState
{
    public static readonly FindingKind BrokenOff = new(
        "setup-broken-off",
        Link.Session,
        Severity.Error,
        "A setup of Windows was broken off, and every start goes back to it.",
        StartupScreens.SetupCantProceed)
    {
        Beyond = "Let the setup go back to the older Windows, where there is one (Windows.old), or install again: what it had "
            + "not done yet can't be made up from outside."
    };

    public static readonly FindingKind CantGoOn = new(
        "setup-marked-failed",
        Link.Session,
        Severity.Error,
        "The setup of Windows is marked as failed, and refuses to go on at every start.",
        StartupScreens.SetupCantProceed);

    public static readonly FindingKind Pending = new(
        "setup-pending",
        Link.Session,
        Severity.Note,
        "Windows goes on with its setup at the next start.");

    /// <summary>The key in the SYSTEM hive.</summary>
    public const string Key = "Setup";

    /// <summary>The key below it with what each part of the setup came to.</summary>
    public const string PartsKey = @"Setup\Status\ChildCompletion";

    /// <summary>The value there of the setup itself.</summary>
    public const string SetupPart = "setup.exe";

    /// <summary>It was begun, and did not come back: it refuses to go on.</summary>
    public const uint Begun = 1;

    /// <summary>It may go on.</summary>
    public const uint MayGoOn = 3;

    public static IReadOnlyList<FindingKind> Kinds => [CantGoOn, BrokenOff, Pending];

    public static IEnumerable<Finding> Of(Machine machine, StartedWindows windows)
    {
        if (windows.IsNt5 || machine.SystemHive is not { Root: { } root } || root.Find(Key) is not { } setup) yield break;
        if (!IsSet(setup, "SystemSetupInProgress") && !IsSet(setup, "SetupType")) yield break;
        var command = setup.Value("CmdLine")?.AsText()?.Trim() ?? "";
        var said = Fact.Said.Is(LogonCheck.Short(command));
        var part = root.Find(PartsKey)?.Value(SetupPart)?.AsNumber();
        if (part == Begun) yield return CantGoOn.At(said);
        else if (command.Length == 0 || (part != MayGoOn && !IsFirstStart(command) && HasUsers(windows)))
            yield return BrokenOff.At(said);
        else yield return Pending.At(said);
    }

    /// <summary>What a machine prepared for imaging does at its next start, whoever has worked on it before.</summary>
    private static bool IsFirstStart(string command) => command.Contains("windeploy", StringComparison.OrdinalIgnoreCase);

    private static bool IsSet(HiveKey setup, string name) => setup.Value(name)?.AsNumber() is { } number and not 0;

    /// <summary>Whether people have worked on it: then no setup of a new machine is on its way.</summary>
    private static bool HasUsers(StartedWindows windows) =>
        InstallationFinder.TryKey(windows.Files, windows.SoftwareHivePath, ProfileList.Key) is { } profiles
            && profiles.Subkeys().Any(ProfileList.IsOfPerson);
}

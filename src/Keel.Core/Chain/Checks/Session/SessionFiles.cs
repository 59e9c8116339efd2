using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks.Session;

/// <summary>The files of the session manager, of the systems behind it, and of the sign-in.</summary>
internal static class SessionFiles
{
    public static readonly FindingKind Missing = new(
        "session-file-missing",
        Link.Session,
        Severity.Error,
        "A file that Windows needs behind the kernel is missing.",
        StartupScreens.ProcessTerminated,
        StartupScreens.LibraryNotFound,
        StartupScreens.FirstProcess,
        StartupScreens.NoSuchFile);

    public static readonly FindingKind Damaged = new(
        "session-file-damaged",
        Link.Session,
        Severity.Error,
        "A file that Windows needs behind the kernel is damaged.",
        StartupScreens.ProcessTerminated,
        StartupScreens.ChecksumMismatch,
        StartupScreens.FirstProcess,
        StartupScreens.InvalidImage);

    public static readonly FindingKind SignInMissing = new(
        "sign-in-file-missing",
        Link.Session,
        Severity.Warning,
        "A program of the sign-in, or the desktop, is missing.",
        StartupScreens.BlackAfterSignIn,
        StartupScreens.SignInEnds);

    public static readonly FindingKind SignInDamaged = new(
        "sign-in-file-damaged",
        Link.Session,
        Severity.Warning,
        "A program of the sign-in, or the desktop, is damaged.",
        StartupScreens.BlackAfterSignIn,
        StartupScreens.SignInEnds);

    public static IReadOnlyList<FindingKind> Kinds => [Missing, Damaged, SignInMissing, SignInDamaged];

    private static readonly ProgramKinds SessionKinds = new(Missing, Damaged, Damaged, Damaged, Damaged, Damaged);

    private static readonly ProgramKinds SignInKinds =
        new(SignInMissing, SignInDamaged, SignInDamaged, SignInDamaged, SignInDamaged, SignInDamaged);

    /// <summary>Programs and libraries in System32, without which no session comes up.</summary>
    private static readonly string[] OfAll =
    [
        "smss.exe", "csrss.exe", "wininit.exe", "winlogon.exe", "services.exe", "lsass.exe", "svchost.exe",
        "ntdll.dll", "kernel32.dll", "user32.dll", "gdi32.dll", "advapi32.dll", "rpcrt4.dll",
        "csrsrv.dll", "basesrv.dll", "winsrv.dll", "win32k.sys"
    ];

    /// <summary>Those that came with Windows 7.</summary>
    private static readonly string[] SinceSeven = ["KernelBase.dll", "sechost.dll", "apisetschema.dll"];

    private const int FirstBuildOfSeven = 7600;

    /// <summary>Tables of letters there, which are no programs: only that they are there, and not empty, can be seen.</summary>
    private static readonly string[] Tables = ["l_intl.nls", "C_1252.NLS", "locale.nls"];

    /// <summary>Below the folder of Windows.</summary>
    private static readonly string[] SignIn = [@"System32\LogonUI.exe", @"System32\userinit.exe"];

    private const string Desktop = "explorer.exe";

    /// <summary>What is wrong, and how many files were looked at: none where this Windows has too few to go by.</summary>
    public static (IReadOnlyList<Finding> Findings, int Looked) Of(Machine machine, StartedWindows windows)
    {
        if (windows.IsNt5) return ([], 0);
        var there = NamesIn(windows.Files, windows.System32);
        var isSeven = windows.InstallationIn(machine)?.Build >= FirstBuildOfSeven;
        string[] programs = isSeven ? [.. OfAll, .. SinceSeven] : OfAll;
        string[] signIn = HasDesktop(windows) ? [.. SignIn, Desktop] : SignIn;
        var usual = programs.Concat(Tables).ToList();

        // A Windows that has few of them is none that starts so far, or one of a kind whose files have other names.
        if (usual.Count(there.Contains) * 2 < usual.Count) return ([], 0);
        var findings = programs.Select(name => Look(machine, windows, $@"{windows.System32}\{name}", SessionKinds))
            .Concat(Tables.Select(name => LookAtTable(windows, $@"{windows.System32}\{name}")))
            .Concat(signIn.Select(name => Look(machine, windows, $@"{windows.Folder}\{name}", SignInKinds)))
            .OfType<Finding>()
            .ToList();
        return (findings, usual.Count + signIn.Length);
    }

    /// <summary>A server may be installed without a desktop, and says so.</summary>
    private static bool HasDesktop(StartedWindows windows) =>
        InstallationFinder.TryKey(windows.Files, windows.SoftwareHivePath, @"Microsoft\Windows NT\CurrentVersion")
            ?.Value("InstallationType")?.AsText() is not ("Server Core" or "Nano Server");

    private static HashSet<string> NamesIn(IVolume files, string folder) =>
        files.List(folder).Where(file => !file.IsFolder).Select(file => file.Name).ToHashSet(StringComparer.OrdinalIgnoreCase);

    private static Finding? Look(Machine machine, StartedWindows windows, string path, ProgramKinds kinds) =>
        kinds.FindingOf(machine.Programs.Look(windows.Volume, windows.Files, path), FilePlace.Of(windows.Volume, path));

    private static Finding? LookAtTable(StartedWindows windows, string path)
    {
        KnownFact[] where = [Fact.Path.Is(path), Fact.Volume.Is(windows.Volume.Ref)];
        var place = FilePlace.Of(windows.Volume, path);
        return windows.Files.Find(path) switch
        {
            null => Missing.At(Remark.Of("file.missing", where), place),
            { IsFolder: true } => Damaged.At(Remark.Of("file.folder", where), place),
            { SizeBytes: 0 } => Damaged.At(Remark.Of("file.empty", where), place),
            _ => null
        };
    }
}

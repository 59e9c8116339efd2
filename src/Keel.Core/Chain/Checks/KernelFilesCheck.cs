using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;

namespace Keel.Core.Chain.Checks;

/// <summary>The kernel, the hardware layer, and the files that they say they need.</summary>
internal sealed class KernelFilesCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "kernel-missing",
        Link.KernelFiles,
        Severity.Error,
        "The kernel, or a file that it needs, is missing.",
        StartupScreens.NoSuchFile,
        StartupScreens.NameNotFound,
        StartupScreens.AutomaticRepair);

    public static readonly FindingKind Altered = new(
        "kernel-altered",
        Link.KernelFiles,
        Severity.Error,
        "The kernel, or a file that it needs, has been altered.",
        StartupScreens.ChecksumMismatch,
        StartupScreens.InvalidHash,
        StartupScreens.AutomaticRepair);

    public static readonly FindingKind Damaged = new(
        "kernel-damaged",
        Link.KernelFiles,
        Severity.Error,
        "The kernel, or a file that it needs, is damaged.",
        StartupScreens.InvalidImage,
        StartupScreens.FileCorrupt,
        StartupScreens.EndOfFile,
        StartupScreens.AutomaticRepair);

    public static readonly FindingKind WrongMachine = new(
        "kernel-wrong-machine",
        Link.KernelFiles,
        Severity.Error,
        "The kernel, or a file that it needs, is for another processor.",
        StartupScreens.WrongProcessor32,
        StartupScreens.WrongProcessor64);

    public static readonly FindingKind Nt5Missing = new(
        "nt5-kernel-missing",
        Link.KernelFiles,
        Severity.Error,
        "The kernel of an NT 5 Windows, or a file that it needs, is missing.",
        StartupScreens.Nt5LayerMissing,
        StartupScreens.Nt5KernelMissing);

    public static readonly FindingKind Nt5Damaged = new(
        "nt5-kernel-damaged",
        Link.KernelFiles,
        Severity.Error,
        "The kernel of an NT 5 Windows, or a file that it needs, is damaged.",
        StartupScreens.Nt5KernelMissing,
        StartupScreens.Nt5LayerMissing);

    private static readonly ProgramKinds Nt5Kinds = new(Nt5Missing, Nt5Damaged, Nt5Damaged, Nt5Damaged, Nt5Damaged, Nt5Damaged);
    private static readonly ProgramKinds FileKinds = new(Missing, Damaged, Damaged, Altered, WrongMachine, Damaged);

    public Link Link => Link.KernelFiles;

    public IReadOnlyList<FindingKind> Kinds =>
    [
        Nt5Missing, Nt5Damaged, Missing, Altered, Damaged, WrongMachine, .. FileVersions.OfKernel,
        SignedStartFiles.KernelAltered, SignedStartFiles.KernelUnlisted
    ];

    public LinkReport Check(Machine machine)
    {
        var (windows, why) = StartedWindows.Of(machine);
        if (windows is null) return LinkReport.Unreached(why);
        var kernel = windows.KernelFile;
        var wanted = new Queue<(string Name, string? For)>([
            (kernel, null),
            (windows.HardwareLayerFile, null)
        ]);
        var seen = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        var findings = new List<Finding>();
        while (wanted.TryDequeue(out var file))
        {
            if (!seen.Add(file.Name)) continue;
            var path = PathOf(windows, file.Name);
            var state = machine.Programs.Look(windows.Volume, windows.Files, path);
            if ((windows.IsNt5 ? Nt5Kinds : FileKinds).FindingOf(state, FilePlace.Of(windows.Volume, path)) is { } finding)
                findings.Add(file.For is null ? finding : finding.With(Fact.NeededBy.Is(file.For)));
            else if (file.For is null && state.Condition == ProgramCondition.Sound)
                AddNeeded(windows, path, file.Name, wanted);
        }

        if (findings.Count == 0) findings.AddRange(FileVersions.Kernel(machine, windows));
        if (findings.Count == 0)
            findings.AddRange(SignedStartFiles.OfKernel.Check(machine, windows, seen.Select(name => PathOf(windows, name))));
        return LinkReport.Of(findings, Remark.Of(
            "kernel-files.sound",
            Fact.FileCount.Is(seen.Count),
            Fact.Folder.Is(windows.System32),
            Fact.Volume.Is(windows.Volume.Ref),
            Fact.Path.Is(kernel)));
    }

    private static void AddNeeded(StartedWindows windows, string path, string name, Queue<(string Name, string? For)> wanted)
    {
        foreach (var import in ProgramImports.Of(windows.Files.OpenFile(path)).Where(ProgramImports.IsFile))
            wanted.Enqueue((import, name));
    }

    private static string PathOf(StartedWindows windows, string name)
    {
        var drivers = $@"{windows.System32}\drivers\{name}";
        return name.EndsWith(".sys", StringComparison.OrdinalIgnoreCase) && windows.Files.FileExists(drivers)
            ? drivers
            : $@"{windows.System32}\{name}";
    }
}

using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks.Session;

/// <summary>The hives that Windows loads behind the kernel: SECURITY, SAM, DEFAULT.</summary>
internal static class SessionHives
{
    public static readonly FindingKind Missing = new(
        "session-hive-missing",
        Link.Session,
        Severity.Error,
        "A registry hive that Windows loads behind the kernel is missing.",
        StartupScreens.CantLoadHive,
        StartupScreens.RegistryCorrupt);

    public static readonly FindingKind Damaged = new(
        "session-hive-damaged",
        Link.Session,
        Severity.Error,
        "A registry hive that Windows loads behind the kernel is damaged.",
        StartupScreens.CantLoadHive,
        StartupScreens.RegistryCorrupt);

    private static readonly (string File, string Listed)[] Usual =
    [
        ("SECURITY", @"\REGISTRY\MACHINE\SECURITY"),
        ("SAM", @"\REGISTRY\MACHINE\SAM"),
        ("DEFAULT", @"\REGISTRY\USER\.DEFAULT")
    ];

    public static IReadOnlyList<FindingKind> Kinds => [Missing, Damaged];

    public static IEnumerable<Finding> Of(Machine machine, StartedWindows windows)
    {
        var there = Usual.Count(hive => windows.Files.Find(PathOf(windows, hive.File)) is { IsFolder: false });
        foreach (var (name, listed) in Usual)
        {
            var path = PathOf(windows, name);
            KnownFact[] where = [Fact.Path.Is(path), Fact.Volume.Is(windows.Volume.Ref)];
            if (windows.Files.Find(path) is { IsFolder: false })
            {
                if (ProblemOf(windows, path, where) is { } problem)
                    yield return Damaged.At(problem, FilePlace.Of(windows.Volume, path));
            }
            else if (there == Usual.Length - 1 || IsListed(machine, listed))
                yield return Missing.At(Remark.Of("hive.missing", where), FilePlace.Of(windows.Volume, path));
        }
    }

    private static string PathOf(StartedWindows windows, string name) => $@"{windows.System32}\config\{name}";

    /// <summary>Whether Windows itself says that it loads it.</summary>
    private static bool IsListed(Machine machine, string listed) =>
        machine.SystemHive is { ControlSet: { } set, Root: { } root }
            && root.Find($@"{set}\Control\hivelist")?.Value(listed)?.AsText() is { Length: > 0 };

    private static Remark? ProblemOf(StartedWindows windows, string path, KnownFact[] where)
    {
        try
        {
            return HiveHealth.OfAll(windows.Files, path, where);
        }
        catch (ReadFailedException)
        {
            return null;        // told as unreadable, first of all
        }
    }
}

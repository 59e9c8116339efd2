using Keel.Core.BootLists;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending;

/// <summary>Builds and writes the list of systems of an NT 5 machine.</summary>
internal static class BootListFile
{
    private const int UsualWaitSeconds = 30;

    /// <summary>Switches that NT 5 puts into its own lines from version 5.1 on.</summary>
    private const string UsualSwitches = "/noexecute=optin /fastdetect";

    /// <summary>What was usual before.</summary>
    private const string OlderSwitches = "/fastdetect";

    private const int FirstBuildOfXp = 2600;

    /// <summary>
    /// A list of these installations. Lines of an old list that lead to one keep their title and switches, and lines that start
    /// another system from a file are kept.
    /// </summary>
    public static BootList Build(Machine machine, BootList? old, IReadOnlyList<WindowsInstallation> installations)
    {
        var list = BootList.Empty(BootListState.PageOf(machine), old?.WaitSeconds ?? UsualWaitSeconds);
        var lines = old?.Lines ?? [];
        foreach (var installation in installations)
        {
            if (ArcPlaces.Of(machine, installation.Volume, installation.Folder) is not { } path) continue;
            var own = lines.Where(line => line.Arc is { } arc && IsOf(machine, arc, installation)).ToList();
            if (own.Count == 0) list.Add($"{path}", installation.Product, SwitchesFor(installation));
            foreach (var line in own) list.Add($"{path}", line.Title ?? installation.Product, line.Switches);
        }

        foreach (var line in lines.Where(line => line.Arc is null))
            list.Add(line.Target, line.Title ?? line.Target, line.Switches);
        KeepPreference(machine, list, old, installations);
        return list;
    }

    /// <summary>The switches of a line that Windows writes for itself.</summary>
    public static string SwitchesFor(WindowsInstallation installation) =>
        installation.Build >= FirstBuildOfXp ? UsualSwitches : OlderSwitches;

    /// <summary>Writes a list to the system volume; what was there is set aside where it is to be kept.</summary>
    public static List<Remark> Write(DiskVolume system, BootList list, bool setAside)
    {
        var lines = new List<Remark>();
        var bytes = list.ToBytes();
        system.Edit(files =>
        {
            if (setAside)
            {
                var aside = StoreRebuild.SetAside(files, BootListState.Path);
                lines.AddRange(aside.Select(line => line.With(Fact.Volume.Is(system.Ref))));
            }

            var marks = files.Find(BootListState.Path)?.Marks ?? UsualMarks.Of(BootListState.Path);
            files.WriteFile(BootListState.Path, bytes);
            files.SetMarks(BootListState.Path, marks & FileMarks.Changeable);
        });
        lines.Add(Remark.Of(
            "line.boot-list-written",
            Fact.Path.Is(BootListState.Path),
            Fact.Volume.Is(system.Ref),
            Fact.SizeBytes.Is(bytes.Length),
            Fact.EntryCount.Is(list.Lines.Count)));
        return lines;
    }

    /// <summary>Whether a path leads to an installation, or can only mean it.</summary>
    public static bool IsOf(Machine machine, ArcPath path, WindowsInstallation installation) =>
        BootLineCheck.Fit(machine, path) == installation;

    private static void KeepPreference(
        Machine machine,
        BootList list,
        BootList? old,
        IReadOnlyList<WindowsInstallation> installations)
    {
        if (old?.Default is not { } target) return;
        var meant = ArcPath.TryParse(target) is { } path ? BootLineCheck.Fit(machine, path) : null;
        var wanted = meant is not null && installations.Contains(meant)
            ? $"{ArcPlaces.Of(machine, meant.Volume, meant.Folder)}"
            : target;
        if (list.Lines.FirstOrDefault(line => BootList.IsSame(line.Target, wanted)) is { } preferred) list.Prefer(preferred);
    }
}

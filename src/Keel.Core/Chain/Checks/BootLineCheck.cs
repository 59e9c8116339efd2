using Keel.Core.BootLists;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks;

/// <summary>The line that is started when nobody chooses: its disk, its partition, its folder.</summary>
internal sealed class BootLineCheck : ILinkCheck
{
    public static readonly FindingKind WrongPartition = new(
        "boot-line-wrong-partition",
        Link.BootLine,
        Severity.Error,
        "The line of boot.ini that is started names a disk or partition that its Windows is not on.",
        StartupScreens.DiskConfiguration,
        StartupScreens.Nt5LayerMissing,
        StartupScreens.Nt5KernelMissing);

    public static readonly FindingKind WrongFolder = new(
        "boot-line-wrong-folder",
        Link.BootLine,
        Severity.Error,
        "The line of boot.ini that is started names a folder that Windows is not in.",
        StartupScreens.Nt5LayerMissing,
        StartupScreens.Nt5KernelMissing);

    public static readonly FindingKind StartsOther = new(
        "boot-line-other-system",
        Link.BootLine,
        Severity.Note,
        "The line of boot.ini that is started is another system's; the first Windows of the list is walked.");

    public static readonly FindingKind Unlisted = new(
        "boot-line-unlisted",
        Link.BootLine,
        Severity.Warning,
        "boot.ini prefers what it has no line for; the loader starts it without its switches.");

    public Link Link => Link.BootLine;

    public IReadOnlyList<FindingKind> Kinds => [WrongPartition, WrongFolder, StartsOther, Unlisted];

    public LinkReport Check(Machine machine)
    {
        if (machine.BootList is not { Condition: BootListCondition.Loaded, List: { } list })
            return LinkReport.Unreached("boot-line.list-first");
        var start = machine.Nt5Start;
        if (start.Path is not { } path) return LinkReport.Unreached("boot-line.no-windows");
        var target = Fact.Device.Is($"{path}");
        if (!start.IsThere && start.Volume?.Files is null && start.Volume is { } dark)
            return LinkReport.Unreached("volume.files-unreadable", Fact.Volume.Is(dark.Ref));
        if (!start.IsThere) return LeadsNowhere(machine, start, path);

        var findings = new List<Finding>();
        if (list.Preferred is not { } preferred) findings.Add(Unlisted.At(target));
        else if (preferred.Arc is null) findings.Add(StartsOther.At(Fact.Title.Is(preferred.Title ?? preferred.Target)));
        return LinkReport.Of(findings, Remark.Of(
            "boot-line.sound",
            target,
            Fact.Folder.Is(path.Folder),
            Fact.Volume.Is(start.Volume!.Ref)));
    }

    private static LinkReport LeadsNowhere(Machine machine, Nt5Start start, ArcPath path)
    {
        var target = Fact.Device.Is($"{path}");
        if (start.Volume is not { } volume)
            return LinkReport.Wrong(WrongPartition, Remark.Of("boot-line-wrong-partition.not-here", target));
        if (Fit(machine, path)?.Volume == volume)
            return LinkReport.Wrong(WrongFolder, target, Fact.Folder.Is(path.Folder), Fact.Volume.Is(volume.Ref));

        // A Windows that the disk does not give is not missing.
        return machine.Disks.Any(disk => disk.ReadErrors.Any)
            ? LinkReport.Unreached("boot-line.disk-fails", target)
            : LinkReport.Wrong(WrongPartition, target, Fact.Volume.Is(volume.Ref));
    }

    /// <summary>
    /// The only NT 5 Windows that a path can mean: the one of its folder, or the one of its volume, or the only one there is.
    /// </summary>
    internal static WindowsInstallation? Fit(Machine machine, ArcPath path)
    {
        var all = machine.Installations.Where(found => found.IsNt5 && found.Volume.InFile is null).ToList();
        var volume = ArcPlaces.VolumeOf(machine, path);
        return Only(all.Where(found => IsFolder(found, path) && found.Volume == volume))
            ?? Only(all.Where(found => found.Volume == volume))
            ?? Only(all.Where(found => IsFolder(found, path)))
            ?? Only(all);

        static WindowsInstallation? Only(IEnumerable<WindowsInstallation> choices) =>
            choices.ToList() is [var only] ? only : null;
    }

    private static bool IsFolder(WindowsInstallation installation, ArcPath path) =>
        installation.Folder.Equals(path.Folder, StringComparison.OrdinalIgnoreCase);
}

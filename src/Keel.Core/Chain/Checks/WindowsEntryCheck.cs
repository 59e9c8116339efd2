using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks;

/// <summary>The entry that starts when nobody chooses, and whether the volumes that it names are here.</summary>
internal sealed class WindowsEntryCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "entry-missing",
        Link.WindowsEntry,
        Severity.Error,
        "The store has no entry that starts Windows.",
        StartupScreens.NameNotFound,
        StartupScreens.FileInvalid,
        StartupScreens.StoreIncomplete);

    public static readonly FindingKind StaleVolume = new(
        "entry-stale-volume",
        Link.WindowsEntry,
        Severity.Error,
        "The Windows entry names a disk or partition that is not here.",
        StartupScreens.NoSuchDevice,
        StartupScreens.NotFoundElement);

    public static readonly FindingKind OtherDisk = new(
        "device-other-disk",
        Link.WindowsEntry,
        Severity.Error,
        "The Windows entry takes its loader or its Windows from a disk that is not here.",
        StartupScreens.NoSuchDevice);

    public static readonly FindingKind WrongFolder = new(
        "entry-wrong-folder",
        Link.WindowsEntry,
        Severity.Error,
        "The Windows entry names a folder that is not on its volume.",
        StartupScreens.NoSuchFile,
        StartupScreens.PathNotFound)
    { HidesFrom = Link.LoaderFile };

    public static readonly FindingKind WrongLoader = new(
        "entry-wrong-loader-kind",
        Link.WindowsEntry,
        Severity.Error,
        "The Windows entry names the loader of the other firmware.",
        StartupScreens.InvalidImage,
        StartupScreens.NoSuchFile);

    public static readonly FindingKind Incomplete = new(
        "entry-incomplete",
        Link.WindowsEntry,
        Severity.Error,
        "The Windows entry lacks a setting that a start needs.",
        StartupScreens.StoreIncomplete,
        StartupScreens.NotFoundElement,
        StartupScreens.NoSuchDevice);

    public static readonly FindingKind WrongVolume = new(
        "entry-wrong-volume",
        Link.WindowsEntry,
        Severity.Error,
        "The Windows entry names a volume that is here, and is not that of its Windows.",
        StartupScreens.NoSuchFile,
        StartupScreens.NotFoundElement,
        StartupScreens.PathNotFound)
    { HidesFrom = Link.LoaderFile };

    public static readonly FindingKind WrongPath = new(
        "entry-wrong-path",
        Link.WindowsEntry,
        Severity.Error,
        "The Windows entry names a loader where none is, and the loader of its Windows is elsewhere.",
        StartupScreens.NoSuchFile,
        StartupScreens.PathNotFound)
    { HidesFrom = Link.LoaderFile };

    public static readonly FindingKind FolderRenamed = new(
        "windows-folder-renamed",
        Link.WindowsEntry,
        Severity.Error,
        "The folder of Windows has another name than Windows itself remembers.",
        StartupScreens.NoSuchFile,
        StartupScreens.PathNotFound)
    { HidesFrom = Link.LoaderFile };

    public static readonly FindingKind OnVirtualDisk = new(
        "entry-on-virtual-disk",
        Link.WindowsEntry,
        Severity.Note,
        "The Windows entry starts from a file that holds a disk; what is in it is not walked here.");

    public static readonly FindingKind Unlisted = new(
        "entry-unlisted",
        Link.WindowsEntry,
        Severity.Error,
        "The store has a Windows entry, and neither the menu nor the preference names one.",
        StartupScreens.FileInvalid,
        StartupScreens.NameNotFound);

    public static readonly FindingKind Duplicate = new(
        "entry-duplicate",
        Link.WindowsEntry,
        Severity.Warning,
        "Two entries start the same Windows.");

    public Link Link => Link.WindowsEntry;

    public IReadOnlyList<FindingKind> Kinds =>
    [
        Missing, StaleVolume, OtherDisk, Incomplete, WrongVolume, FolderRenamed, WrongFolder, WrongPath,
        OnVirtualDisk, WrongLoader, Unlisted, Duplicate, .. InsideDiskCheck.Kinds, .. EntrySettingsCheck.Kinds,
        .. RecoveryPromptCauses.OfEntry,
        .. RecoveryCheck.Kinds, .. StoreHealth.Kinds
    ];

    public LinkReport Check(Machine machine)
    {
        if (machine.Store is not { Condition: StoreCondition.Loaded, Store: { Entries.Count: > 0 } store })
            return LinkReport.Unreached("store.unusable");
        if (store.WindowsEntries.Count == 0 && (!store.StartsOnlyImage || machine.StoreInstallations.Count > 0))
        {
            var isInside = machine.StoreInstallations is { Count: > 0 } found
                && found.All(installation => machine.Inside.Disks.Any(disk => disk.Path == installation.Volume.DiskPath));
            return LinkReport.Wrong(isInside ? InsideDiskCheck.EntryMissing : Missing, Fact.EntryCount.Is(store.Entries.Count));
        }

        if (store.Manager is { } manager
            && manager.Reference(Element.Preferred) is null
            && !manager.References(Element.MenuOrder).Any(id => store.Entry(id) is { StartsWindows: true }))
        {
            return LinkReport.Wrong(Unlisted, Fact.Title.Is(store.WindowsEntries[0].Title ?? ""));
        }

        if (store.Started is not { } entry) return LinkReport.Unreached("windows-entry.not-in-store");

        var findings = Places(machine, entry).Concat(Duplicates(machine, store)).ToList();
        if (findings.All(finding => finding.Kind.Severity != Severity.Error))
        {
            findings.AddRange(EntrySettingsCheck.Of(machine, entry));
            findings.AddRange(RecoveryPromptCauses.Of(machine, entry));
            findings.AddRange(RecoveryCheck.Of(machine, store));
        }

        var sound = new List<KnownFact>
        {
            Fact.Title.Is(entry.Title ?? ""),
            Fact.Folder.Is(entry.Text(Element.WindowsFolder) ?? "")
        };
        if (machine.VolumeOf(entry.Device(Element.WindowsVolume)) is not { } volume)
            return LinkReport.Of(findings, Remark.Of("windows-entry.sound-elsewhere", sound));
        return LinkReport.Of(findings, Remark.Of("windows-entry.sound", [.. sound, Fact.Volume.Is(volume.Ref)]));
    }

    private static IEnumerable<Finding> Places(Machine machine, BootEntry entry)
    {
        uint[] elements = [Element.WindowsVolume, Element.ProgramVolume];
        var stale =
            elements
                .Select(entry.Device)
                .OfType<BootDevice>()
                .Where(device => device.IsPartition && machine.VolumeOf(device) is null)
                .ToList();
        if (stale.Count > 0)
        {
            yield return (stale.Count == elements.Length
                ? StaleVolume
                : OtherDisk).At(Fact.Title.Is(entry.Title ?? ""), Fact.Device.Is($"{stale[0]}"));
            yield break;
        }

        var inside = elements.Select(entry.Device).FirstOrDefault(device => device is { IsInVirtualDisk: true });
        if (inside is not null && InsideDiskCheck.Of(machine, entry, inside) is { } wrongInside)
        {
            yield return wrongInside;
            if (wrongInside.Kind.Severity == Severity.Error) yield break;
        }

        if (elements.Any(element => entry.Device(element)?.AsFile() is not null))
        {
            yield return OnVirtualDisk.At(Fact.Title.Is(entry.Title ?? ""));
            yield break;
        }

        if (Lacking(entry) is { Count: > 0 } lacking)
        {
            yield return Incomplete.At(Fact.Title.Is(entry.Title ?? ""), Fact.Settings.Is(lacking));
            yield break;
        }

        if (entry.Text(Element.ProgramFile) is { } program
            && program.EndsWith(machine.Firmware == FirmwareKind.Bios ? ".efi" : ".exe", StringComparison.OrdinalIgnoreCase))
        {
            yield return WrongLoader.At(
                Fact.Title.Is(entry.Title ?? ""),
                Fact.Path.Is(program),
                Fact.Firmware.Is(machine.Firmware == FirmwareKind.Bios ? "BIOS" : "UEFI"));
        }

        if (Misdirected(machine, entry) is { } wrong) yield return wrong;
    }

    /// <summary>The settings that a start needs and that are missing, empty, or cut short.</summary>
    private static List<string> Lacking(BootEntry entry)
    {
        uint[] devices = [Element.ProgramVolume, Element.WindowsVolume];
        uint[] texts = [Element.ProgramFile, Element.WindowsFolder];
        return
        [
            .. devices
                .Where(element => entry.Device(element) is not { IsCutShort: false })
                .Concat(texts.Where(element => string.IsNullOrWhiteSpace(entry.Text(element))))
                .Order()
                .Select(element => Settings.NameOf(element, entry.Type))
        ];
    }

    /// <summary>Where volume, folder or file of an entry don't lead to the Windows that it must mean.</summary>
    private static Finding? Misdirected(Machine machine, BootEntry entry)
    {
        var title = Fact.Title.Is(entry.Title ?? "");
        var folder = entry.Text(Element.WindowsFolder)!;
        if (machine.VolumeOf(entry.Device(Element.WindowsVolume)) is not { Files: { } files } volume) return null;
        var fit = EntryFit.Of(machine, entry).Installation;
        if (!files.FolderExists(folder))
        {
            if (fit is not null && fit.Volume == volume && IsRemembered(fit, folder))
                return FolderRenamed.At(Fact.Folder.Is(folder), Fact.OtherPath.Is(fit.Folder), Fact.Volume.Is(volume.Ref));
            return fit is not null && fit.Volume != volume && EntryFit.IsFolder(entry, fit.Folder)
                ? WrongVolume.At(title, Fact.Folder.Is(folder), Fact.Volume.Is(volume.Ref), Fact.OtherVolume.Is(fit.Volume.Ref))
                : WrongFolder.At(title, Fact.Folder.Is(folder), Fact.Volume.Is(volume.Ref));
        }

        if (fit is null || !EntryFit.IsFolder(entry, fit.Folder)) return null;
        if (fit.Volume != volume)
        {
            return files.FolderExists($@"{folder}\System32")
                ? null
                : WrongVolume.At(title, Fact.Folder.Is(folder), Fact.Volume.Is(volume.Ref), Fact.OtherVolume.Is(fit.Volume.Ref));
        }

        return ProgramElsewhere(machine, entry, fit);
    }

    /// <summary>The named loader is not there, and the one of the installation is in its usual place.</summary>
    private static Finding? ProgramElsewhere(Machine machine, BootEntry entry, WindowsInstallation fit)
    {
        var named = entry.Text(Element.ProgramFile)!;
        if (machine.VolumeOf(entry.Device(Element.ProgramVolume)) is not { Files: { } files } volume || files.FileExists(named))
            return null;
        var usual = $@"{fit.Folder}\System32\{machine.BootFiles.LoaderName}";
        if (fit.Volume.Files?.FileExists(usual) != true) return null;
        var title = Fact.Title.Is(entry.Title ?? "");
        if (volume != fit.Volume)
        {
            return WrongVolume.At(
                Remark.Of(
                    "entry-wrong-volume.program",
                    title,
                    Fact.Path.Is(named),
                    Fact.Volume.Is(volume.Ref),
                    Fact.OtherVolume.Is(fit.Volume.Ref)));
        }

        return usual.Equals(named, StringComparison.OrdinalIgnoreCase)
            ? null
            : WrongPath.At(title, Fact.Path.Is(named), Fact.OtherPath.Is(usual), Fact.Volume.Is(volume.Ref));
    }

    /// <summary>Whether an installation remembers that folder as its own, and nothing stands in it now.</summary>
    private static bool IsRemembered(WindowsInstallation installation, string folder) =>
        folder.TrimEnd('\\').Equals(installation.RememberedFolder, StringComparison.OrdinalIgnoreCase);

    private static IEnumerable<Finding> Duplicates(Machine machine, BootStore store)
    {
        var order = store.Manager?.References(Element.MenuOrder) ?? [];
        var twins = store.WindowsEntries.Where(entry => order.Contains(entry.Id))
            .GroupBy(entry =>
                (
                    machine.VolumeOf(entry.Device(Element.WindowsVolume)),
                    entry.Text(Element.WindowsFolder)?.ToUpperInvariant(),
                    entry.Title,
                    Rest(entry)))
            .Where(group => group.Key.Item1 is not null && group.Count() > 1);
        foreach (var group in twins)
        {
            yield return Duplicate.At(
                Fact.Title.Is(group.Key.Title ?? ""),
                Fact.EntryCount.Is(group.Count()),
                Fact.Folder.Is(group.Key.Item2 ?? ""),
                Fact.Volume.Is(group.Key.Item1!.Ref));
        }
    }

    /// <summary>What makes two entries for one Windows differ on purpose, such as safe start.</summary>
    private static string Rest(BootEntry entry) => string.Join(' ', entry.Elements.Order()
        .Where(element => Setting.FormatOf(element) is SettingFormat.Number or SettingFormat.YesNo)
        .Select(element => $"{element:x8}={Convert.ToHexString(entry.Value(element)!.Data)}"));
}

using Keel.Core.Facts;
using Keel.Core.Store;
using Keel.Core.Volumes;

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
        StartupScreens.PathNotFound);

    public static readonly FindingKind WrongLoader = new(
        "entry-wrong-loader-kind",
        Link.WindowsEntry,
        Severity.Error,
        "The Windows entry names the loader of the other firmware.",
        StartupScreens.InvalidImage,
        StartupScreens.NoSuchFile);

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

    public LinkReport Check(Machine machine)
    {
        if (machine.Store is not { Condition: StoreCondition.Loaded, Store: { Entries.Count: > 0 } store })
            return LinkReport.Unreached("store.unusable");
        if (store.WindowsEntries.Count == 0) return LinkReport.Wrong(Missing, Fact.EntryCount.Is(store.Entries.Count));
        if (store.Manager is { } manager
            && manager.Reference(Element.Preferred) is null
            && !manager.References(Element.MenuOrder).Any(id => store.Entry(id)?.Type == EntryType.Windows))
        {
            return LinkReport.Wrong(Unlisted, Fact.Title.Is(store.WindowsEntries[0].Title ?? ""));
        }

        if (Started(store) is not { } entry) return LinkReport.Unreached("windows-entry.not-in-store");

        var findings = Places(machine, entry).Concat(Duplicates(machine, store)).ToList();
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

        if (entry.Text(Element.ProgramFile) is { } program
            && program.EndsWith(machine.Firmware == FirmwareKind.Bios ? ".efi" : ".exe", StringComparison.OrdinalIgnoreCase))
        {
            yield return WrongLoader.At(
                Fact.Title.Is(entry.Title ?? ""),
                Fact.Path.Is(program),
                Fact.Firmware.Is(machine.Firmware == FirmwareKind.Bios ? "BIOS" : "UEFI"));
        }

        if (entry.Text(Element.WindowsFolder) is { } folder
            && machine.VolumeOf(entry.Device(Element.WindowsVolume)) is { Files: { } files } volume
            && !files.FolderExists(folder))
        {
            yield return WrongFolder.At(Fact.Title.Is(entry.Title ?? ""), Fact.Folder.Is(folder), Fact.Volume.Is(volume.Ref));
        }
    }

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

    /// <summary>The Windows entry that starts when nobody chooses.</summary>
    internal static BootEntry? Started(BootStore store) =>
        store.Preferred is { } preferred && store.Entry(preferred) is { } entry && entry.Type == EntryType.Windows ? entry : null;
}

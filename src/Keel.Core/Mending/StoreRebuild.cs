using Keel.Core.Chain;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending;

/// <summary>
/// Builds a store from installations, and keeps of an old one what can be kept: titles, waiting time, language, other systems'
/// entries.
/// </summary>
internal static class StoreRebuild
{
    private const string UsualLanguage = "en-US";
    private const int SetAsideLimit = 1000;
    private static readonly string[] LogEndings = ["", ".LOG", ".LOG1", ".LOG2"];

    /// <summary>The bytes of the new store, and a line on each installation and each thing kept.</summary>
    public static (byte[] Bytes, IReadOnlyList<StepDetail> Details) Build(
        Machine machine,
        DiskVolume system,
        BootStore? old,
        IReadOnlyList<WindowsInstallation> installations,
        RepairTerms terms) =>
        Build(machine, system, machine.BootFiles, old, installations, terms);

    /// <summary>The same for another kind of firmware than the machine's.</summary>
    public static (byte[] Bytes, IReadOnlyList<StepDetail> Details) Build(
        Machine machine,
        DiskVolume system,
        BootFiles kind,
        BootStore? old,
        IReadOnlyList<WindowsInstallation> installations,
        RepairTerms terms)
    {
        var details = new List<StepDetail>
        {
            new(
                Remark.Of("line.installations-found", Fact.InstallationCount.Is(machine.StoreInstallations.Count)),
                StepDetailKind.InstallationCount)
        };
        details.AddRange(machine.StoreInstallations.Select(found => new StepDetail(
            Describe(found).With(Fact.IsListed.Is(machine.IsListed(found)), Fact.IsLeftOut.Is(!installations.Contains(found))),
            StepDetailKind.Installation)));
        var systems = installations.Select(found => ToList(machine, old, found)).ToList();
        var store = FreshStore.Build(
            system,
            kind,
            systems,
            old?.Manager?.Text(Element.Language) ?? LanguageOf(kind, installations) ?? UsualLanguage,
            terms.Clock.GetUtcNow(),
            terms.NewId);
        TakeTemplates(store, installations, details);
        var recoveries = systems.Select(listed => listed.Recovery).OfType<RecoveryToList>().DistinctBy(one => one.File).ToList();
        details.AddRange(recoveries.Select(recovery => new StepDetail(Listed(machine, recovery))));
        if (recoveries.Count > 0) details.Add(new StepDetail(UncheckedRamdiskForm()));
        if (installations.Any(found => found.Volume.InFile is not null)) details.Add(new StepDetail(UncheckedForm()));
        if (old is not null) Keep(machine, old, store, details);
        return (store.ToBytes(), details);
    }

    private static WindowsToList ToList(Machine machine, BootStore? old, WindowsInstallation found) =>
        new(machine.DeviceOf(found.Volume), found.Folder, TitleOf(machine, old, found), found.Build)
        {
            IsServer = found.Product.Contains("Server", StringComparison.OrdinalIgnoreCase),
            Recovery = RecoveryPlaces.ToList(machine, found)
        };

    /// <summary>The line on a recovery environment that got its entry.</summary>
    private static Remark Listed(Machine machine, RecoveryToList recovery) => Remark.Of(
        "line.recovery-listed",
        Fact.Path.Is(recovery.File),
        Fact.Volume.Is(machine.VolumeOf(recovery.Volume)!.Ref));

    /// <summary>What is said wherever a device value for a virtual disk file is written.</summary>
    public static Remark UncheckedForm() => Remark.Of("line.inside-form-unchecked");

    /// <summary>What is said wherever a device value for a ramdisk is written.</summary>
    public static Remark UncheckedRamdiskForm() => Remark.Of("line.ramdisk-form-unchecked");

    /// <summary>Renames the store and its logs to the first free name; gives a line for each.</summary>
    public static List<Remark> SetAside(IVolume files, string path)
    {
        var lines = new List<Remark>();
        if (LogEndings.All(ending => files.Find(path + ending) is null)) return lines;
        var number = Enumerable
            .Range(1, SetAsideLimit)
            .First(candidate => LogEndings.All(ending => files.Find(Aside(path, ending, candidate)) is null));
        foreach (var ending in LogEndings.Where(ending => files.Find(path + ending) is not null))
        {
            var aside = Aside(path, ending, number);
            files.Rename(path + ending, VolumeExtensions.NameOf(aside));
            lines.Add(
                Remark.Of("line.set-aside", Fact.Path.Is(path + ending), Fact.OtherPath.Is(VolumeExtensions.NameOf(aside))));
        }

        return lines;
    }

    private static string? LanguageOf(BootFiles kind, IReadOnlyList<WindowsInstallation> installations) =>
        installations.Count == 0 ? null : WindowsLanguage.Of(installations[0], kind == BootFiles.Uefi ? "EFI" : "PCAT");

    /// <summary>
    /// What Windows' own setup would say: of the manager and of what is inherited, by the first installation; of each Windows and
    /// how it resumes, by itself.
    /// </summary>
    private static void TakeTemplates(
        BootStore store,
        IReadOnlyList<WindowsInstallation> installations,
        List<StepDetail> details)
    {
        foreach (var (entry, number) in store.WindowsEntries.Select((entry, number) => (entry, number)))
        {
            if (StoreTemplate.Read(installations[number]) is not { } template) continue;
            if (number == 0) CarryShared(template, store);
            if (template.WindowsEntries is [var windows, ..]) SettingCarrier.Carry(windows, entry);
            if (template.Entries.FirstOrDefault(other => other.Type == EntryType.Resume) is { } resume
                && ResumeOf(store, entry) is { } own)
            {
                SettingCarrier.Carry(resume, own);
            }

            details.Add(Remark.Of(
                "line.store-template",
                Fact.Path.Is(StoreTemplate.PathIn(installations[number].Folder)),
                Fact.Volume.Is(installations[number].Volume.Ref)));
        }
    }

    /// <summary>Settings of entries that have the same identifier in every store.</summary>
    private static List<uint> CarryShared(BootStore from, BootStore to)
    {
        var carried = new List<uint>();
        foreach (var entry in to.Entries.Where(entry => entry.Type != EntryType.Windows && entry.Type != EntryType.Resume))
        {
            if (from.Entry(entry.Id) is { } other && other.Type == entry.Type)
                carried.AddRange(SettingCarrier.Carry(other, entry));
        }

        return carried;
    }

    private static BootEntry? ResumeOf(BootStore store, BootEntry windows) =>
        windows.Reference(Element.WindowsResumeEntry) is { } id ? store.Entry(id) : null;

    /// <summary>The settings of the old store, and its entries of other systems; what is lost is told.</summary>
    private static void Keep(Machine machine, BootStore old, BootStore store, List<StepDetail> details)
    {
        // A menu that does not wait is what led here, as often as not.
        var seconds = store.Manager!.Number(Element.MenuSeconds);
        var carried = CarryShared(old, store);
        if (store.Manager.Number(Element.MenuSeconds) is null or 0) store.Manager.Set(Element.MenuSeconds, seconds ?? 0);
        foreach (var entry in store.WindowsEntries)
        {
            if (old.WindowsEntries.FirstOrDefault(other => IsSameWindows(machine, other, entry)) is not { } before) continue;
            carried.AddRange(SettingCarrier.Carry(before, entry));
            if (ResumeOf(old, before) is { } resume && ResumeOf(store, entry) is { } own) SettingCarrier.Carry(resume, own);
        }

        if (carried.Count > 0)
        {
            var names = carried.Distinct()
                .Select(element => Settings.NameOf(element, EntryType.Windows))
                .Order(StringComparer.Ordinal);
            details.Add(Remark.Of("line.settings-kept", Fact.Settings.Is([.. names])));
        }

        foreach (var gone in old.WindowsEntries.Where(other =>
            !store.WindowsEntries.Any(entry => IsSameWindows(machine, other, entry))))
        {
            details.Add(Remark.Of("line.entry-not-kept", Fact.Title.Is(gone.Title ?? gone.Type.Name)));
        }

        var order = old.Manager?.References(Element.MenuOrder) ?? [];
        foreach (var entry in old.Entries.Where(IsOtherSystem))
        {
            store.Adopt(entry);
            if (order.Contains(entry.Id))
                store.Manager!.Set(Element.MenuOrder, store.Manager.References(Element.MenuOrder).Append(entry.Id));
            details.Add(Remark.Of("line.kept", Fact.Title.Is(entry.Title ?? entry.Type.Name)));
        }
    }

    private static bool IsSameWindows(Machine machine, BootEntry one, BootEntry other) =>
        machine.VolumeOf(one.Device(Element.WindowsVolume)) is { } volume
            && volume == machine.VolumeOf(other.Device(Element.WindowsVolume))
            && string.Equals(
                one.Text(Element.WindowsFolder),
                other.Text(Element.WindowsFolder),
                StringComparison.OrdinalIgnoreCase);

    /// <summary>Programs that the rebuild does not make itself.</summary>
    private static bool IsOtherSystem(BootEntry entry) => entry.Type.IsApplication
        && entry.Type != EntryType.Windows
        && entry.Type != EntryType.Resume
        && entry.Type != EntryType.Manager
        && entry.Type != EntryType.MemoryTest
        && entry.Type != EntryType.FirmwareList;

    private static string Aside(string path, string ending, int number) => $"{path}{ending}.aside{number}";

    private static Remark Describe(WindowsInstallation installation)
    {
        var remark = Remark.Of("line.installation", Fact.Product.Is($"{installation}"));
        return installation.Build > 0 ? remark.With(Fact.Build.Is(installation.Build)) : remark;
    }

    /// <summary>The line on a store that is new.</summary>
    public static Remark Made(string path, DiskVolume volume, byte[] bytes) =>
        Remark.Of("line.store-made", Fact.Path.Is(path), Fact.Volume.Is(volume.Ref), Fact.SizeBytes.Is(bytes.Length));

    /// <summary>The line on a store that was changed.</summary>
    public static Remark Changed(string path, DiskVolume volume, byte[] bytes) =>
        Remark.Of("line.store-changed", Fact.Path.Is(path), Fact.Volume.Is(volume.Ref), Fact.SizeBytes.Is(bytes.Length));

    /// <summary>The title of the entry that listed the installation, where the old store still tells it.</summary>
    private static string TitleOf(Machine machine, BootStore? old, WindowsInstallation installation) =>
        old?.WindowsEntries.FirstOrDefault(entry =>
            machine.VolumeOf(entry.Device(Element.WindowsVolume)) == installation.Volume
            && string.Equals(entry.Text(Element.WindowsFolder), installation.Folder, StringComparison.OrdinalIgnoreCase))?.Title
        ?? installation.Product;
}

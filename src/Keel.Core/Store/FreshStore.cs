using Keel.Core.Volumes;

namespace Keel.Core.Store;

/// <summary>Builds a store from nothing: the manager, the settings that others inherit, and an entry for each Windows.</summary>
public sealed class FreshStore
{
    private const ulong UsualMenuSeconds = 30;
    private const int FirstGraphicalBuild = 9200;
    private const ulong LocalDebugger = 4, UsualSpeed = 115_200, OptIn = 0, OptOut = 1;
    private readonly BootStore store;
    private readonly BootFiles files;
    private readonly string language;
    private readonly BootEntry manager;
    private readonly List<EntryId> order = [];

    private FreshStore(DiskVolume system, BootFiles files, string language, DateTimeOffset written)
    {
        store = BootStore.Empty(written);
        this.files = files;
        this.language = language;
        AddSettings();
        manager = AddManager(system);
        AddMemoryTest(system);
        if (files == BootFiles.Uefi) AddFirmwareList();
    }

    /// <summary>The language of a menu where nothing tells another.</summary>
    public const string UsualLanguage = "en-US";

    /// <summary>A store for a machine of this kind.</summary>
    /// <param name="system">The volume that holds boot manager and store.</param>
    /// <param name="files">The boot files of the firmware.</param>
    /// <param name="systems">What to list, the preferred one first; may be empty.</param>
    /// <param name="language">The language of the menu, such as en-US.</param>
    /// <param name="written">The time that its keys say.</param>
    /// <param name="newId">Gives a new identifier for each entry that has no fixed one.</param>
    public static BootStore Build(
        DiskVolume system,
        BootFiles files,
        IEnumerable<WindowsToList> systems,
        string language,
        DateTimeOffset written,
        Func<Guid> newId)
    {
        var fresh = new FreshStore(system, files, language, written);
        foreach (var windows in systems) fresh.AddWindows(windows, newId);
        fresh.Finish();
        return fresh.store;
    }

    private void AddSettings()
    {
        store.Add(EntryId.DebuggerSettings, EntryType.EverySettings).Set(Element.DebugLink, LocalDebugger);
        store.Add(EntryId.SerialSettings, EntryType.EverySettings).Set(Element.SerialManagement, false);
        store.Add(EntryId.BadMemorySettings, EntryType.EverySettings);
        store
            .Add(EntryId.VirtualisationSettings, EntryType.WindowsSettings)
            .Set(Element.HypervisorDebugLink, 0UL)
            .Set(Element.HypervisorDebugPort, 1UL)
            .Set(Element.HypervisorDebugSpeed, UsualSpeed);
        store.Add(EntryId.EverySettings, EntryType.EverySettings)
            .Set(Element.SettingsFrom, [EntryId.DebuggerSettings, EntryId.SerialSettings, EntryId.BadMemorySettings]);
        store
            .Add(EntryId.WindowsSettings, EntryType.WindowsSettings)
            .Set(Element.SettingsFrom, [EntryId.EverySettings, EntryId.VirtualisationSettings]);
        store.Add(EntryId.ResumeSettings, EntryType.ResumeSettings).Set(Element.SettingsFrom, [EntryId.EverySettings]);
    }

    private BootEntry AddManager(DiskVolume system)
    {
        var entry = store.Add(EntryId.Manager, EntryType.Manager);
        entry.Set(Element.ProgramVolume, BootDevice.Of(system.DiskIdentity, system.Partition));
        if (files.ManagerProgramFile is { } program) entry.Set(Element.ProgramFile, program);
        entry.Set(Element.Title, "Windows Boot Manager");
        entry.Set(Element.Language, language);
        entry.Set(Element.SettingsFrom, [EntryId.EverySettings]);
        entry.Set(Element.MenuTools, [EntryId.MemoryTest]);
        entry.Set(Element.MenuSeconds, UsualMenuSeconds);
        return entry;
    }

    private void AddMemoryTest(DiskVolume system)
    {
        var entry = store.Add(EntryId.MemoryTest, EntryType.MemoryTest);
        entry.Set(Element.ProgramVolume, BootDevice.Of(system.DiskIdentity, system.Partition));
        entry.Set(Element.ProgramFile, files.MemoryTest);
        entry.Set(Element.Title, "Memory test");
        entry.Set(Element.Language, language);
        entry.Set(Element.SettingsFrom, [EntryId.EverySettings]);
        entry.Set(Element.UseBadMemory, true);
    }

    /// <summary>The list that firmware's own order is written into, once Windows runs.</summary>
    private void AddFirmwareList()
    {
        var entry = store.Add(EntryId.FirmwareList, EntryType.FirmwareList);
        entry.Set(Element.MenuOrder, [EntryId.Manager]);
        entry.Set(Element.MenuSeconds, 0UL);
    }

    private void AddWindows(WindowsToList windows, Func<Guid> newId)
    {
        var device = windows.Device;
        var resume = store.Add(new EntryId(newId()), EntryType.Resume);
        resume.Set(Element.ProgramVolume, device);
        resume.Set(Element.ProgramFile, $@"{windows.Folder}\System32\{files.ResumeLoaderName}");
        resume.Set(Element.Title, "Resume from hibernation");
        resume.Set(Element.Language, language);
        resume.Set(Element.SettingsFrom, [EntryId.ResumeSettings]);
        resume.Set(Element.HibernationVolume, device);
        resume.Set(Element.HibernationFile, @"\hiberfil.sys");
        resume.Set(Element.ResumeDebugging, false);
        if (windows.Build >= FirstGraphicalBuild)
        {
            resume.Set(Element.ResumeMenuLook, 1UL);
            SetIsolation(resume);
        }

        var entry = store.Add(new EntryId(newId()), EntryType.Windows);
        Fill(entry, files, device, windows.Folder, windows.Title, language, windows.Build);
        if (windows.IsServer) entry.Set(Element.ExecuteProtection, OptOut);
        entry.Set(Element.WindowsResumeEntry, resume.Id);
        if (order.Count == 0) manager.Set(Element.ManagerResumeEntry, resume.Id);
        order.Add(entry.Id);
        if (windows.Recovery is { } recovery) RecoveryEntries.Put(store, files, entry, recovery, newId);
    }

    /// <summary>The settings that every Windows entry has.</summary>
    internal static void Fill(
        BootEntry entry,
        BootFiles files,
        BootDevice device,
        string folder,
        string title,
        string language,
        int build)
    {
        entry.Set(Element.ProgramVolume, device);
        entry.Set(Element.ProgramFile, $@"{folder}\System32\{files.LoaderName}");
        entry.Set(Element.Title, title);
        entry.Set(Element.Language, language);
        entry.Set(Element.SettingsFrom, [EntryId.WindowsSettings]);
        entry.Set(Element.WindowsVolume, device);
        entry.Set(Element.WindowsFolder, folder);
        entry.Set(Element.ExecuteProtection, OptIn);
        if (build < FirstGraphicalBuild) return;
        entry.Set(Element.MenuLook, 1UL);
        SetIsolation(entry);
    }

    /// <summary>What every Windows since 8 has for its loaders: a context of their own, and what may be set in it.</summary>
    private static void SetIsolation(BootEntry entry)
    {
        entry.Set(Element.IsolatedContext, true);
        entry.SetNumbers(Element.AllowedSettings, [Element.AllowedSetting]);
    }

    private void Finish()
    {
        manager.Set(Element.MenuOrder, order);
        if (order.Count > 0) manager.Set(Element.Preferred, order[0]);
    }
}

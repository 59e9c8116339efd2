namespace Keel.Core.Store;

/// <summary>The entries of recovery environments: the one that starts the image, and the options of its ramdisk.</summary>
public static class RecoveryEntries
{
    private const string Folder = @"\windows", Title = "Windows recovery environment";

    /// <summary>
    /// Gives a recovery environment its entry and its options, and names it as what is started when a Windows fails. What the
    /// store has of it is used again.
    /// </summary>
    /// <param name="store">The store.</param>
    /// <param name="files">The boot files of the firmware.</param>
    /// <param name="windows">The entry of the Windows.</param>
    /// <param name="recovery">The recovery environment.</param>
    /// <param name="newId">Gives a new identifier.</param>
    /// <returns>The entry of the recovery environment.</returns>
    public static BootEntry Put(
        BootStore store,
        BootFiles files,
        BootEntry windows,
        RecoveryToList recovery,
        Func<Guid> newId)
    {
        var known = NamedBy(store, windows) ?? StartingFrom(store, recovery);
        var options = store.Add(OptionsId(store, known) ?? new EntryId(newId()), EntryType.DeviceOptions);
        options.Set(Element.Title, "Options of the recovery environment");
        options.Set(Element.RamdiskVolume, recovery.SdiVolume);
        options.Set(Element.RamdiskFile, recovery.SdiFile);

        var entry = known ?? store.Add(IdFor(store, recovery) ?? new EntryId(newId()), EntryType.Windows);
        var device = BootDevice.OfRamdisk(options.Id, recovery.Volume, recovery.File);
        foreach (var element in new[] { Element.ProgramVolume, Element.WindowsVolume })
        {
            if (!IsSame(entry.Device(element), device)) entry.Set(element, device);
        }

        entry.Set(Element.ProgramFile, $@"{Folder}\system32\{files.LoaderName}");
        if (entry.Title is null) entry.Set(Element.Title, Title);
        if (entry.Text(Element.Language) is null)
            entry.Set(Element.Language, windows.Text(Element.Language) ?? FreshStore.UsualLanguage);
        entry.Set(Element.SettingsFrom, [EntryId.WindowsSettings]);
        entry.Set(Element.WindowsFolder, Folder);
        entry.Set(Element.SetupSystem, true);
        if (entry.Number(Element.ExecuteProtection) is null) entry.Set(Element.ExecuteProtection, 0UL);
        if (entry.Number(Element.MenuLook) is null && windows.Number(Element.MenuLook) is { } look)
            entry.Set(Element.MenuLook, look);
        NameAsRescue(store, windows, entry.Id);
        return entry;
    }

    /// <summary>The recovery environment that is started when a Windows fails; null where the store has none for it.</summary>
    public static BootEntry? NamedBy(BootStore store, BootEntry windows) =>
        windows.References(Element.RescueEntries).Select(store.Entry).FirstOrDefault(entry => entry is { IsRecovery: true });

    /// <summary>The one that starts from that image already.</summary>
    private static BootEntry? StartingFrom(BootStore store, RecoveryToList recovery) =>
        store.Entries.FirstOrDefault(entry => entry.IsRecovery
            && entry.Device(Element.WindowsVolume)?.AsFile() is { IsRamdisk: true } place
            && IsSame(place, recovery.Volume, recovery.File));

    /// <summary>Whether a device means the same, in whatever form: Windows knows its own best.</summary>
    private static bool IsSame(BootDevice? there, BootDevice wanted) =>
        there?.AsFile() is { IsRamdisk: true } place
        && there.Options == wanted.Options
        && wanted.AsFile() is { } other
        && IsSame(place, other.Inner, other.Path);

    private static bool IsSame((BootDevice Inner, string Path, bool IsRamdisk) place, BootDevice volume, string path) =>
        place.Path.Equals(path, StringComparison.OrdinalIgnoreCase)
        && place.Inner.Raw.AsSpan(BootDeviceRecord.BodyAt).SequenceEqual(volume.Raw.AsSpan(BootDeviceRecord.BodyAt));

    /// <summary>Where the options of its device are, or were.</summary>
    private static EntryId? OptionsId(BootStore store, BootEntry? known) =>
        known?.Device(Element.WindowsVolume)?.Options is { } id && (store.Entry(id)?.Type.IsDeviceOptions ?? true) ? id : null;

    private static EntryId? IdFor(BootStore store, RecoveryToList recovery) =>
        recovery.Id is { } id && store.Entry(id) is null ? id : null;

    /// <summary>The first that is tried; others that are there are tried after it.</summary>
    private static void NameAsRescue(BootStore store, BootEntry windows, EntryId id)
    {
        var others = windows.References(Element.RescueEntries).Where(other => other != id && store.Entry(other) is not null);
        windows.Set(Element.RescueEntries, others.Prepend(id));
        windows.Set(Element.RescueByItself, true);
    }
}

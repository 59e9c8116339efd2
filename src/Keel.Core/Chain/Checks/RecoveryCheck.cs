using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks;

/// <summary>
/// Whether the recovery environment of a Windows can be started from its store. The start does not hang on it, but the repair
/// tools of the machine itself do.
/// </summary>
internal static class RecoveryCheck
{
    public static readonly FindingKind EntryMissing = new(
        "recovery-entry-missing",
        Link.WindowsEntry,
        Severity.Warning,
        "The recovery environment is on the disk, and the store does not lead to it.");

    public static readonly FindingKind ImageMissing = new(
        "recovery-image-missing",
        Link.WindowsEntry,
        Severity.Warning,
        "The store leads to a recovery environment that is not on the disk.")
    {
        Beyond = "Windows starts without it. To have it back, copy Winre.wim and boot.sdi of the same version into "
            + @"\Recovery\WindowsRE of the volume, and run 'keel store add recovery'."
    };

    public static readonly FindingKind ImageDamaged = new(
        "recovery-image-damaged",
        Link.WindowsEntry,
        Severity.Warning,
        "The image of the recovery environment is cut short, or is none.")
    {
        Beyond = "Windows starts without it. To have it back, copy a whole Winre.wim of the same version over it."
    };

    public static IReadOnlyList<FindingKind> Kinds => [EntryMissing, ImageMissing, ImageDamaged];

    /// <summary>What is wrong, for each Windows that the store lists.</summary>
    public static IEnumerable<Finding> Of(Machine machine, BootStore store) =>
        store.WindowsEntries.Select(windows => TryOf(machine, store, windows)).OfType<Finding>();

    /// <summary>
    /// The recovery environment that a Windows entry should lead to and does not; null where nothing is wrong, or it is nowhere.
    /// </summary>
    public static RecoveryImage? MissingFor(Machine machine, BootStore store, BootEntry windows) =>
        Place(machine, windows) is { } place
        && Wrong(machine, store, windows) is { } wrong
        && RecoveryPlaces.Of(machine, place.Volume, place.Folder) is { Sdi: not null } image
        && image.IsWhole
        && (image.Settings.IsTold || wrong.Id != NotNamed)
            ? image
            : null;

    private const string NotNamed = "recovery.not-named";

    /// <summary>What a damaged volume does not give says nothing here: the start does not hang on it.</summary>
    private static Finding? TryOf(Machine machine, BootStore store, BootEntry windows)
    {
        try
        {
            return Of(machine, store, windows);
        }
        catch (KeelException)
        {
            return null;
        }
    }

    private static Finding? Of(Machine machine, BootStore store, BootEntry windows)
    {
        if (Place(machine, windows) is not { } place) return null;
        var title = Fact.Title.Is(windows.Title ?? "");
        if (Wrong(machine, store, windows) is not { } wrong)
        {
            return RecoveryEntries.NamedBy(store, windows) is { } named && ImageOf(machine, named) is { } image
                ? Damage(image.Volume, image.Path, title)
                : null;
        }

        var reason = Fact.Reason.Is(wrong);
        if (RecoveryPlaces.Of(machine, place.Volume, place.Folder) is not { } found)
            return wrong.Id == NotNamed ? null : ImageMissing.At(title, reason, Fact.Path.Is(RecoveryImage.FileName));
        if (!found.Settings.IsTold && wrong.Id == NotNamed) return null;
        if (found.Sdi is null) return ImageMissing.At(title, reason, Fact.Path.Is(RecoveryImage.SdiName));
        return Damage(found.Volume, found.File, title)
            ?? EntryMissing.At(title, reason, Fact.Path.Is(found.File), Fact.Volume.Is(found.Volume.Ref));
    }

    private static (DiskVolume Volume, string Folder)? Place(Machine machine, BootEntry windows) =>
        machine.VolumeOf(windows.Device(Element.WindowsVolume)) is { InFile: null, Files: not null } volume
        && windows.Text(Element.WindowsFolder)?.TrimEnd('\\') is { Length: > 0 } folder
            ? (volume, folder)
            : null;

    private static Finding? Damage(DiskVolume volume, string path, KnownFact title) =>
        volume.Files is { } files && !RecoveryImage.IsWholeImage(files, path)
            ? ImageDamaged.At(title, Fact.Path.Is(path), Fact.Volume.Is(volume.Ref))
            : null;

    /// <summary>Where the way from a Windows to its recovery environment breaks off; null where it does not.</summary>
    private static Remark? Wrong(Machine machine, BootStore store, BootEntry windows)
    {
        var named = windows.References(Element.RescueEntries);
        if (RecoveryEntries.NamedBy(store, windows) is not { } entry)
        {
            var isOther = named.Any(id => store.Entry(id) is not null);
            return isOther ? null : Remark.Of(named.Count == 0 ? NotNamed : "recovery.entry-gone");
        }

        BootDevice?[] devices = [entry.Device(Element.WindowsVolume), entry.Device(Element.ProgramVolume)];
        if (devices.Any(device => device?.AsFile() is not { IsRamdisk: true }))
            return Remark.Of("recovery.no-ramdisk", Fact.Title.Is(entry.Name));
        if (!HasRightLoader(machine, entry)) return Remark.Of("recovery.wrong-loader", Fact.Title.Is(entry.Name));
        return devices.Select(device => WrongImage(machine, entry, device!) ?? WrongOptions(machine, store, device!))
            .FirstOrDefault(wrong => wrong is not null);
    }

    private static bool HasRightLoader(Machine machine, BootEntry entry) =>
        entry.Text(Element.ProgramFile) is { } program
        && program.EndsWith(Path.GetExtension(machine.BootFiles.LoaderName), StringComparison.OrdinalIgnoreCase);

    private static Remark? WrongImage(Machine machine, BootEntry entry, BootDevice device)
    {
        var place = device.AsFile()!.Value;
        if (machine.VolumeOf(place.Inner) is not { } volume)
            return Remark.Of("recovery.volume-gone", Fact.Title.Is(entry.Name));
        return volume.Files?.FileExists(place.Path) == false
            ? Remark.Of("recovery.file-gone", Fact.Path.Is(place.Path), Fact.Volume.Is(volume.Ref))
            : null;
    }

    private static Remark? WrongOptions(Machine machine, BootStore store, BootDevice device)
    {
        if (device.Options is not { } id
            || store.Entry(id) is not { Type.IsDeviceOptions: true } options
            || options.Text(Element.RamdiskFile) is not { Length: > 0 } file
            || options.Device(Element.RamdiskVolume) is not { } holder)
        {
            return Remark.Of("recovery.no-options");
        }

        if (machine.VolumeOf(holder) is not { } volume) return Remark.Of("recovery.options-volume-gone");
        return volume.Files?.FileExists(file) == false
            ? Remark.Of("recovery.file-gone", Fact.Path.Is(file), Fact.Volume.Is(volume.Ref))
            : null;
    }

    private static (DiskVolume Volume, string Path)? ImageOf(Machine machine, BootEntry entry) =>
        entry.Device(Element.WindowsVolume)?.AsFile() is { } place && machine.VolumeOf(place.Inner) is { } volume
            ? (volume, place.Path)
            : null;
}

using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>What a technician asks of the entries of recovery environments.</summary>
public static class RecoveryRequests
{
    /// <summary>Gives every Windows of a store an entry of its recovery environment, where one is on the disk.</summary>
    /// <param name="machine">The machine.</param>
    /// <param name="store">Its store.</param>
    /// <returns>What that does.</returns>
    /// <exception cref="RefusedException">There is none, or it is not all there.</exception>
    public static Remark Add(Machine machine, BootStore store)
    {
        var images = new List<RecoveryImage>();
        foreach (var windows in store.WindowsEntries)
        {
            if (Image(machine, windows) is not { } image) continue;
            RecoveryEntries.Put(store, machine.BootFiles, windows, Checked(image), Guid.NewGuid);
            images.Add(image);
        }

        if (images.Count == 0) throw NoneFound(store);
        return Remark.Of("step.add-recovery", Fact.Path.Is(images[0].File), Fact.Volume.Is(images[0].Volume.Ref));
    }

    private static RecoveryImage? Image(Machine machine, BootEntry windows) =>
        machine.VolumeOf(windows.Device(Element.WindowsVolume)) is { } volume
        && windows.Text(Element.WindowsFolder)?.TrimEnd('\\') is { Length: > 0 } folder
            ? RecoveryPlaces.Of(machine, volume, folder)
            : null;

    private static RecoveryToList Checked(RecoveryImage image)
    {
        if (!image.IsWhole)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"{image.File} on {image.Volume} is cut short, or is no image of a recovery environment.",
                "Copy a whole one of the same version over it first.");
        }

        return image.ToList() ?? throw new RefusedException(
            "Nothing was written.",
            $"{RecoveryImage.SdiName} is missing, which a ramdisk begins with.",
            $"Copy it from a medium of Windows beside {image.File} on {image.Volume} first.");
    }

    private static RefusedException NoneFound(BootStore store) => store.WindowsEntries.Count == 0
        ? new RefusedException(
            "Nothing was written.",
            "The store lists no Windows, and a recovery environment belongs to one.",
            "Run 'keel mend', or list the Windows first: keel store add windows.")
        : new RefusedException(
            "Nothing was written.",
            $@"No {RecoveryImage.FileName} was found: not where Windows remembers it, nor in \Recovery\WindowsRE of a volume.",
            "Copy it from a medium of Windows into that folder first, with boot.sdi beside it.");
}

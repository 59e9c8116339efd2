using Keel.Core.Store;
using Keel.Core.Volumes;
using BootFiles = Keel.Core.Store.BootFiles;

namespace Keel.Core.Drills;

/// <summary>
/// The template that the setup of a practice Windows would make a store from: entries with settings, and no devices.
/// </summary>
internal static class PracticeTemplate
{
    /// <summary>An element that tells setup what to do, and belongs into no store.</summary>
    private const uint ForSetup = 0x46000010;

    public static byte[] Of(DiskVolume windows, PracticeSpec spec)
    {
        var number = 0;
        var store = FreshStore.Build(
            windows,
            BootFiles.Bios,
            [new WindowsToList(BootDevice.Of(windows.DiskIdentity, windows.Partition), @"\Windows", spec.Product, spec.Build)],
            FreshStore.UsualLanguage,
            spec.Made,
            () => new Guid(++number, 0, 0, new byte[8]));
        foreach (var entry in store.Entries)
        {
            foreach (var element in entry.Elements.Where(Element.IsDevice).ToList()) entry.Remove(element);
            entry.Set(ForSetup, true);
        }

        return store.ToBytes();
    }
}

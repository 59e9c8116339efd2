using Keel.Core.Chain;
using Keel.Core.Layout;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Drills;

/// <summary>Faults of the boot configuration store.</summary>
internal static class StoreFaults
{
    private const uint ClonedSignature = 0x0C10DE00;
    private static readonly EntryId Vanished = new(Guid.Parse("5ea57a1e-0000-4000-8000-00000000be11"));

    public static readonly IReadOnlyList<Fault> All =
    [
        new("store-missing", "BF-1041", "Ticket office, {0}", "Blue screen: your PC needs to be repaired, something with 0xc000000f. I only tidied up the small drive.", machine =>
            Edit(machine, (files, path) => files.Delete(path))),
        new("store-truncated", "BF-1042", "Back office, {0}", "The power went during the storm. Now it says 0xc000014c and stops.", machine =>
            Edit(machine, (files, path) => files.WriteFile(path, files.ReadFile(path).AsSpan(0, 5000)))),
        new("store-empty", "BF-1043", "Night purser, {0}", "The screen says 0xc0000034, the file is missing information. Somebody had started a rebuild and gave up.", machine =>
            Edit(machine, (files, path) => files.WriteFile(path, BootStore.Empty(new DateTimeOffset(2026, 3, 2, 6, 40, 0, TimeSpan.Zero)).ToBytes()))),
        new("entry-stale-volume", "BF-1044", "Workshop, {0}", "I cloned it to a larger disk, and the new one says 0xc000000e: a required device isn't connected.", ChangeSignature),
        new("preferred-dangling", "BF-1045", "Bridge, {0}", "I removed the old system from the menu, and now 0xc0000034 is all I get.", machine =>
            EditStore(machine, store => store.Manager!.Set(Element.Preferred, Vanished)))
    ];

    internal static void EditStore(Machine machine, Action<BootStore> change)
    {
        var store = machine.Store.Store!;
        change(store);
        var bytes = store.ToBytes();
        Edit(machine, (files, path) => files.WriteFile(path, bytes));
    }

    private static void Edit(Machine machine, Action<IVolume, string> change)
    {
        var path = machine.Store.Path;
        machine.SystemVolume!.Edit(files => change(files, path));
    }

    private static void ChangeSignature(Machine machine)
    {
        var overlay = machine.StartDisk.Overlay;
        var sector = new byte[MasterBootRecord.Size];
        overlay.Read(0, sector);
        var record = new MasterBootRecord(sector) { Signature = ClonedSignature };
        overlay.Write(0, record.ToBytes());
    }
}

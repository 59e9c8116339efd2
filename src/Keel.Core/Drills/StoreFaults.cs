using Keel.Core.Hives;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Drills;

/// <summary>Faults of the boot configuration store.</summary>
internal static class StoreFaults
{
    private const uint ClonedSignature = 0x0C10DE00;
    private static readonly Guid ClonedGuid = new("0c10de00-0000-4000-8000-0000000d15c0");
    private static readonly EntryId Vanished = new(Guid.Parse("5ea57a1e-0000-4000-8000-00000000be11"));

    public static readonly IReadOnlyList<Fault> All =
    [
        new(
            "store-missing",
            "BF-1041",
            "Ticket office, {0}",
            "Blue screen: your PC needs to be repaired, something with 0xc000000f. I only tidied up the small drive.",
            machine =>
            Edit(machine, (files, path) => files.Delete(path))),
        new(
            "store-truncated",
            "BF-1042",
            "Back office, {0}",
            "The power went during the storm. Now it says 0xc000014c and stops.",
            machine =>
            Edit(machine, (files, path) => files.WriteFile(path, files.ReadFile(path).AsSpan(0, 5000)))),
        new(
            "store-empty",
            "BF-1043",
            "Night purser, {0}",
            "The screen says 0xc0000034, the file is missing information. Somebody had started a rebuild and gave up.",
            machine =>
            Edit(
                machine,
                (files, path) =>
                    files.WriteFile(path, BootStore.Empty(new DateTimeOffset(2026, 3, 2, 6, 40, 0, TimeSpan.Zero)).ToBytes()))),
        new(
            "entry-stale-volume",
            "BF-1044",
            "Workshop, {0}",
            "I cloned it to a larger disk, and the new one says 0xc000000e: a required device isn't connected.",
            ChangeSignature),
        new(
            "preferred-dangling",
            "BF-1045",
            "Bridge, {0}",
            "I removed the old system from the menu, and now 0xc0000034 is all I get.",
            machine =>
            EditStore(machine, store => store.Manager!.Set(Element.Preferred, Vanished))),
        new(
            "store-torn",
            "BF-1062",
            "Back office, {0}",
            "The plug was pulled while it wrote something. Since then 0xc000014c.",
            TearStore),
        new(
            "store-bad-checksum",
            "BF-1063",
            "Kiosk, {0}",
            "0xc000014c after the disk was copied sector by sector with errors.",
            machine =>
            EditBytes(machine, bytes => bytes[0x1FC] ^= 0xFF)),
        new(
            "store-cells-damaged",
            "BF-1064",
            "Harbour master's desk, {0}",
            "The disk check repaired something, and now the start is blue: 0xc000014c.",
            machine =>
            EditBytes(machine, BreakIndex)),
        new(
            "entry-missing",
            "BF-1065",
            "Apprentice's bench, {0}",
            "I deleted the entry I thought was the old one. 0xc0000034.",
            machine =>
            EditStore(machine, store => store.Drop(store.WindowsEntries[0].Id))),
        new(
            "entry-duplicate",
            "BF-1066",
            "Ticket office, {0}",
            "The menu asks which Windows, and there are two of the same name.",
            machine => EditStore(machine, store =>
            StoreEditing.AddLike(
                store,
                store.WindowsEntries[0],
                new Guid("5ea57a1e-0000-4000-8000-00000000d0b1"),
                store.WindowsEntries[0].Title))),
        new(
            "entry-wrong-folder",
            "BF-1067",
            "Workshop, {0}",
            "I typed the folder in by hand. Now 0xc000000f.",
            machine => EditStore(machine, store =>
            store.WindowsEntries[0].Set(Element.WindowsFolder, @"\Windows.old"))),
        new(
            "entry-wrong-loader-kind",
            "BF-1068",
            "Workshop, {0}",
            "I copied the entry from the new machine in the office. It says 0xc000007b.",
            machine => EditStore(machine, store =>
            store.WindowsEntries[0].Set(
                Element.ProgramFile,
                machine.Firmware == FirmwareKind.Bios ? @"\Windows\System32\winload.efi" : @"\Windows\System32\winload.exe"))),
        new(
            "entry-unlisted",
            "BF-1069",
            "Night purser, {0}",
            "A program promised to tidy up the start menu. Now there is none, and 0xc0000098.",
            machine => EditStore(machine, store =>
        {
            store.Manager!.Remove(Element.Preferred);
            store.Manager.Set(Element.MenuOrder, Array.Empty<EntryId>());
        })),
        new(
            "order-dangling",
            "BF-1070",
            "Gangway desk, {0}",
            "It starts, but the menu shows a line that leads nowhere.",
            machine => EditStore(machine, store =>
            store.Manager!.Set(Element.MenuOrder, store.Manager.References(Element.MenuOrder).Append(Vanished)))),
        new(
            "manager-entry-missing",
            "BF-1071",
            "Chart room, {0}",
            "0xc0000225, a required entry is missing. I only removed what I didn't know.",
            machine =>
            EditStore(machine, store => store.Drop(EntryId.Manager))),
        new(
            "entry-safe-start",
            "BF-1160",
            "Purser's cabin, {0}",
            "It comes up with black corners and large letters, and the till does not run.",
            machine => EditEntry(machine, entry => entry.Set(Element.SafeStart, 0UL))),
        new(
            "entry-memory-withheld",
            "BF-1161",
            "Chart room, {0}",
            "Slower every day, and today it stopped before the circle turned. Somebody tried things in a window with tabs.",
            machine => EditEntry(machine, entry => entry.Set(Element.WithheldMemory, 15_000UL))),
        new(
            "entry-debugger-let-in",
            "BF-1162",
            "Engine control, {0}",
            "A black screen, for ever. It came back from the maker of the engine's program.",
            machine => EditEntry(machine, entry =>
            {
                entry.Set(Element.KernelDebugging, true);
                entry.Set(Element.EarlyDebugging, true);
            })),
        new(
            "entry-last-good",
            "BF-1163",
            "Kiosk, {0}",
            "Whatever printer we add, it is gone after the next start.",
            machine => EditEntry(machine, entry => entry.Set(Element.LastGoodConfiguration, true))),
        new(
            "entry-named-file-missing",
            "BF-1164",
            "Bridge, {0}",
            "It says that the kernel is missing, 0xc000000f, and I can see it in the folder.",
            machine => EditEntry(machine, entry => entry.Set(Element.KernelFile, "ntkrferry.exe"))),
        new(
            "once-only-dangling",
            "BF-1165",
            "Harbour master's desk, {0}",
            "We planned a check for the next start, and then cleaned the menu up.",
            machine => EditStore(machine, store =>
                store.Manager!.Set(Element.OnceOnly, [new EntryId(new Guid("b4ac0042-0000-4000-8000-00000000dead"))]))),
        new(
            "wait-zero-no-menu",
            "BF-1072",
            "Bridge, {0}",
            "I need the memory test from the menu, but the menu never stays.",
            machine => EditStore(machine, store =>
        {
            store.Manager!.Set(Element.MenuOrder, store.Manager.References(Element.MenuOrder).Append(EntryId.MemoryTest));
            store.Manager.Set(Element.MenuSeconds, 0UL);
        })),
        new(
            "device-other-disk",
            "BF-1073",
            "Purser's cabin, {0}",
            "There were two disks in it, and one was taken out. 0xc000000e.",
            machine => EditStore(machine, store =>
            store.WindowsEntries[0].Set(
                Element.ProgramVolume,
                BootDevice.Of(
                    machine.Firmware == FirmwareKind.Bios ? DiskIdentity.OfMbr(ClonedSignature) : DiskIdentity.OfGpt(ClonedGuid),
                    machine.Installations[0].Volume.Partition)))),
        new(
            "entry-incomplete",
            "BF-1119",
            "Workshop, {0}",
            "A cleaning program went over the start menu's settings. Required information is missing, it says.",
            machine => EditStore(machine, store => store.WindowsEntries[0].Remove(Element.WindowsVolume))),
        new(
            "entry-wrong-volume",
            "BF-1120",
            "Gangway desk, {0}",
            "I pointed it at C:, but at the recovery prompt C: was something else. 0xc000000f.",
            machine => EditStore(machine, store =>
            store.WindowsEntries[0].Set(
                Element.WindowsVolume,
                BootDevice.Of(machine.SystemVolume!.DiskIdentity, machine.SystemVolume.Partition)))),
        new(
            "entry-wrong-path",
            "BF-1121",
            "Apprentice's bench, {0}",
            "I typed the path of the loader from memory. 0xc000000f, winload.",
            machine => EditStore(machine, store =>
            store.WindowsEntries[0].Set(Element.ProgramFile, $@"\Windows\Sytem32\{machine.BootFiles.LoaderName}"))),
        new(
            "preferred-starts-nothing",
            "BF-1122",
            "Harbour master's desk, {0}",
            "It tests its memory at every start, and never gets to Windows.",
            machine => EditStore(machine, store => store.Manager!.Set(Element.Preferred, EntryId.MemoryTest))),
        new(
            "store-redirected",
            "BF-1123",
            "Chart room, {0}",
            "Somebody experimented with a second store. It starts as it likes.",
            machine => EditStore(machine, store => store.Manager!.Set(Element.StoreFile, @"\Boot\BCD.second")))
    ];

    private static void EditBytes(Machine machine, Action<byte[]> change)
    {
        var bytes = machine.SystemVolume!.Files!.ReadFile(machine.Store.Path);
        change(bytes);
        Edit(machine, (files, path) => files.WriteFile(path, bytes));
    }

    /// <summary>The index of the entries' key is overwritten: the entries are still there, and no way leads to them.</summary>
    private static void BreakIndex(byte[] bytes)
    {
        var at = bytes.AsSpan().LastIndexOf("lf"u8);
        for (var index = at; index >= 0; index = bytes.AsSpan(0, index).LastIndexOf("lf"u8))
        {
            if (BitConverter.ToUInt16(bytes, index + 2) >= 8) at = index;
        }

        bytes.AsSpan(at, 8).Fill(0xEE);
    }

    /// <summary>A write that was cut off: the old pages are still in the hive, the new ones only in its log.</summary>
    private static void TearStore(Machine machine)
    {
        var whole = machine.SystemVolume!.Files!.ReadFile(machine.Store.Path);
        var torn = whole.ToArray();
        const int lostPage = HiveHeader.Size + 1024;
        torn.AsSpan(lostPage, 512).Clear();
        var header = HiveHeader.TryRead(torn)!;
        (header with { PrimarySequence = header.PrimarySequence + 1 }).Write(torn);
        var log = HiveLog.WriteOld(whole, [(lostPage - HiveHeader.Size) / 512]);
        Edit(machine, (files, path) =>
        {
            files.WriteFile(path, torn);
            files.WriteFile(path + ".LOG", log);
        });
    }

    internal static void EditStore(Machine machine, Action<BootStore> change)
    {
        var store = machine.Store.Store!;
        change(store);
        var bytes = store.ToBytes();
        Edit(machine, (files, path) => files.WriteFile(path, bytes));
    }

    private static void EditEntry(Machine machine, Action<BootEntry> change) =>
        EditStore(machine, store => change(store.WindowsEntries[0]));

    private static void Edit(Machine machine, Action<IVolume, string> change)
    {
        var path = machine.Store.Path;
        machine.SystemVolume!.Edit(files => change(files, path));
    }

    private static void ChangeSignature(Machine machine)
    {
        var overlay = machine.StartDisk.Overlay;
        if (machine.Firmware == FirmwareKind.Uefi)
        {
            GptEditor.SetDiskGuid(overlay, ClonedGuid);
            return;
        }

        var sector = new byte[MasterBootRecord.Size];
        overlay.Read(0, sector);
        var record = new MasterBootRecord(sector) { Signature = ClonedSignature };
        overlay.Write(0, record.ToBytes());
    }
}

using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Hives;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Campaigns;

/// <summary>
/// What is odd about a machine and stops no start: what was deleted, what stood there before, what others brought.
/// </summary>
internal static class OddLives
{
    private const int ChanceOfEach = 4;
    private const string Hive = @"\Windows\System32\config\SYSTEM", Services = "ControlSet001";

    private static readonly (string Name, Action<Machine, Random> Lead)[] Any =
    [
        ("empty logs", LeaveEmptyLogs),
        ("a vendor's storage driver alone", UseVendorsDriver),
        ("another system preferred", PreferOther),
        ("a copy of another version", KeepOtherVersion),
        ("a second entry", AddEntry),
        ("an old installation", KeepOldWindows)
    ];

    private static readonly (string Name, Action<Machine, Random> Lead)[] OfMbr =
    [
        ("an odd type", TakeOddType),
        ("a GPT of an earlier life", LeaveOldGpt)
    ];

    /// <summary>Leads some of them, and gives their names.</summary>
    public static List<string> Lead(Machine machine, Random chance, bool hasRoom)
    {
        var names = new List<string>();
        var isMbr = machine.StartDisk.Layout.Scheme == PartitionScheme.Mbr;
        foreach (var (name, lead) in isMbr ? [.. Any, .. OfMbr] : Any)
        {
            if (chance.Next(ChanceOfEach) != 0) continue;
            lead(machine, chance);
            names.Add(name);
        }

        if (!hasRoom || chance.Next(2) == 0) return names;
        LeaveDeletedVolume(machine);
        names.Add("a deleted volume");
        return names;
    }

    private static void LeaveEmptyLogs(Machine machine, Random chance)
    {
        var path = machine.BootFiles.StorePath;
        machine.SystemVolume!.Edit(files => files.WriteFile(path + ".LOG", []));
        Edit(machine, files => files.WriteFile(Hive + ".LOG1", []));
    }

    private static void UseVendorsDriver(Machine machine, Random chance)
    {
        var name = $"ferry{chance.Next(100)}raid";
        Edit(machine, files =>
        {
            var root = Core.Hives.Hive.Open(files.ReadFile(Hive)).ReadTree();
            var services = root.Child(Services)!.Child("Services")!;
            foreach (var own in new[] { "storahci", "stornvme" }) services.Child(own)!.Set(HiveValue.OfNumber("Start", 3));
            services.ChildOrNew(name)
                .Set(HiveValue.OfNumber("Start", 0))
                .Set(HiveValue.OfNumber("Type", 1))
                .Set(HiveValue.OfNumber("ErrorControl", 3))
                .Set(HiveValue.OfText("Group", "SCSI Miniport"));
            files.WriteFile(Hive, HiveWriter.Write(root, 5));
            files.WriteFile(
                $@"\Windows\System32\drivers\{name}.sys",
                files.ReadFile(@"\Windows\System32\drivers\storahci.sys"));
        });
    }

    private static void PreferOther(Machine machine, Random chance) => EditStore(machine, store =>
    {
        var other = store.Add(new EntryId(Guid.NewGuid()), EntryType.BootSectorFile);
        other.Set(Element.Title, $"Till system {chance.Next(9)}");
        other.Set(Element.ProgramFile, @"\ferry.bin");
        store.Manager!.Set(Element.MenuOrder, store.Manager.References(Element.MenuOrder).Prepend(other.Id));
        store.Manager.Set(Element.Preferred, other.Id);
    });

    private static void KeepOtherVersion(Machine machine, Random chance) => Edit(machine, files =>
    {
        var path = $@"\Windows\Boot\{machine.BootFiles.CopiesFolder}\"
            + VolumeExtensions.NameOf(machine.BootFiles.ManagerPath);
        var other = files.ReadFile(path);
        if (machine.Firmware != FirmwareKind.Bios) return;
        var more = new byte[4096];
        chance.NextBytes(more);
        files.WriteFile(path, [.. other.AsSpan(0, other.Length / 2), .. more, .. other.AsSpan(other.Length / 2)]);
    });

    private static void AddEntry(Machine machine, Random chance) => EditStore(machine, store =>
    {
        var entry = StoreEditing.AddLike(store, store.WindowsEntries[0], Guid.NewGuid(), "Windows, careful");
        entry.Set(Element.SafeStart, 0UL);
    });

    private static void KeepOldWindows(Machine machine, Random chance) => Edit(machine, files =>
    {
        files.CreateFolder(@"\Windows.old\Windows\System32\config");
        files.WriteFile(@"\Windows.old\Windows\System32\config\SYSTEM", new byte[8192]);
    });

    private static void TakeOddType(Machine machine, Random chance)
    {
        byte[] seenByWindows = [0x06, 0x07, 0x0B, 0x0C, 0x0E];
        var overlay = machine.StartDisk.Overlay;
        var record = new MasterBootRecord(overlay.ReadBytes(0, MasterBootRecord.Size));
        record.SetType(0, seenByWindows[chance.Next(seenByWindows.Length)]);
        overlay.Write(0, record.ToBytes());
    }

    private static void LeaveOldGpt(Machine machine, Random chance)
    {
        const int tableSectors = 34;
        var overlay = machine.StartDisk.Overlay;
        var old = new Overlay(overlay);
        var range = new ByteRange(chance.Next(1, 40) * 1024L * 1024, 64L * 1024 * 1024);
        var partition = new Partition(1, range, 0, PartitionTypes.GptBasicData, Guid.NewGuid(), false, false, "old");
        GptEditor.WriteNew(old, Guid.NewGuid(), [partition]);
        overlay.Write(overlay.SectorBytes, old.ReadBytes(overlay.SectorBytes, (tableSectors - 1) * overlay.SectorBytes));
    }

    /// <summary>The system volume once more in free space, whole and with a boot sector that names its place.</summary>
    private static void LeaveDeletedVolume(Machine machine)
    {
        var overlay = machine.StartDisk.Overlay;
        var range = machine.SystemVolume!.Partition.Range;
        var start = (overlay.LengthBytes - range.Length) / (1024 * 1024) * 1024 * 1024;
        var bytes = machine.SystemVolume.Blocks.ReadBytes(0, (int)range.Length);
        BitConverter.TryWriteBytes(bytes.AsSpan(0x1C), (uint)(start / overlay.SectorBytes));
        overlay.Write(start, bytes);
    }

    private static void Edit(Machine machine, Action<IVolume> change) => machine.Installations[0].Volume.Edit(change);

    private static void EditStore(Machine machine, Action<BootStore> change)
    {
        var store = machine.Store.Store!;
        change(store);
        var bytes = store.ToBytes();
        var path = machine.BootFiles.StorePath;
        machine.SystemVolume!.Edit(files => files.WriteFile(path, bytes));
    }
}

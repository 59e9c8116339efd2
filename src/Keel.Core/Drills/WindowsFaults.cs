using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;
using Processor = System.Reflection.PortableExecutable.Machine;
using Subsystem = System.Reflection.PortableExecutable.Subsystem;

namespace Keel.Core.Drills;

/// <summary>Faults of the Windows volume: loader, SYSTEM hive, kernel, drivers, and the volume itself.</summary>
internal static class WindowsFaults
{
    private const string System32 = @"\Windows\System32", Hive = @"\Windows\System32\config\SYSTEM";
    private const string NewDriver = "tidegauge";
    private const int SectorBytes = 512;

    public static readonly IReadOnlyList<Fault> All =
    [
        new(
            "loader-missing",
            "BF-1088",
            "Ticket office, {0}",
            "The virus scanner removed something. Blue: 0xc000000f, winload.",
            machine => Edit(machine, files => files.Delete(Loader(machine)))),
        new(
            "loader-altered",
            "BF-1089",
            "Workshop, {0}",
            "Since the memory was changed it says 0xc0000221 and a file name.",
            machine => Change(machine, Loader(machine), bytes => bytes[bytes.Length / 2] ^= 0x10)),
        new(
            "loader-cut-short",
            "BF-1090",
            "Night purser, {0}",
            "The disk was full when the update ran. 0xc0000011 now.",
            machine =>
                Edit(machine, files => files.WriteFile(Loader(machine), files.ReadFile(Loader(machine)).AsSpan(0, 9_000))))
        {
            Remembered = memory => memory.Updated("Cumulative update of February", isDone: false)
        },
        new(
            "loader-zero-filled",
            "BF-1091",
            "Bridge, {0}",
            "The current went away in the storm, right in the update. 0xc000007b.",
            machine => Change(machine, Loader(machine), bytes => bytes.AsSpan().Clear())),
        new(
            "loader-wrong-machine",
            "BF-1092",
            "Apprentice's bench, {0}",
            "I took winload from the small old machine. It says 0xc0000359.",
            machine => Edit(machine, files =>
            files.WriteFile(
                Loader(machine),
                StandInProgram.Make("winload", "10.0.19045.1", Subsystem.WindowsBootApplication, Processor.I386)))),
        new(
            "loader-damaged",
            "BF-1127",
            "Apprentice's bench, {0}",
            "I copied the kernel over the loader, the names are alike at that hour.",
            machine => Edit(machine, files =>
            files.WriteFile(Loader(machine), files.ReadFile($@"{machine.Installations[0].Folder}\System32\ntoskrnl.exe")))),
        new(
            "windows-folder-renamed",
            "BF-1128",
            "Purser's cabin, {0}",
            "From the other computer I tidied up drive letters and folders. 0xc000000f.",
            machine => Edit(machine, files => files.Rename(machine.Installations[0].Folder, "Windows.alt"))),
        new(
            "software-hive-missing",
            "BF-1129",
            "Night purser, {0}",
            "The scanner moved a file of the registry into quarantine. 0xc0000218.",
            machine => Edit(machine, files => files.Delete($@"{machine.Installations[0].Folder}\System32\config\SOFTWARE"))),
        new(
            "start-driver-key-missing",
            "BF-1130",
            "Chart room, {0}",
            "I removed everything from the registry that looked left over. Stop 7B.",
            machine => EditHive(machine, root => root.Child("ControlSet001")!.Child("Services")!.Children
                .RemoveAll(child => child.Name.Equals("volmgr", StringComparison.OrdinalIgnoreCase)))),
        new(
            "system-hive-missing",
            "BF-1093",
            "Back office, {0}",
            "I moved some large files off the disk. Now 0xc000014c, and it names config\\system.",
            machine => Edit(machine, files => files.Delete(Hive))),
        new(
            "system-hive-torn",
            "BF-1094",
            "Harbour master's desk, {0}",
            "The battery was empty, it went dark while it was busy. Since then it tries to repair itself.",
            Tear),
        new(
            "system-hive-damaged",
            "BF-1095",
            "Kiosk, {0}",
            "Stop code bad system config, after the disk check found bad sectors.",
            machine => Change(machine, Hive, bytes => bytes.AsSpan(HiveHeader.Size + 32, 600).Fill(0xEE)))
        {
            Remembered = memory =>
            {
                memory.DiskFailed(6);
                memory.StartFailed();
            }
        },
        new(
            "control-set-missing",
            "BF-1096",
            "Chart room, {0}",
            "Stop 0x74, bad system config info. A registry cleaner was at work.",
            machine => Number(machine, "Select", ["Current", "Default"], 2))
        {
            Remembered = memory => memory.RepairTried(0x74)
        },
        new(
            "kernel-missing",
            "BF-1097",
            "Gangway desk, {0}",
            "0xc000000f again, but it names another file this time: ntoskrnl.",
            machine => Edit(machine, files => files.Delete($@"{System32}\ntoskrnl.exe"))),
        new(
            "kernel-altered",
            "BF-1098",
            "Purser's cabin, {0}",
            "It says 0xc0000221 and hal.dll.",
            machine => Change(machine, $@"{System32}\hal.dll", bytes => bytes[5000] ^= 1)),
        new(
            "driver-missing",
            "BF-1099",
            "Ticket office, {0}",
            "A driver clean-up tool ran. Inaccessible boot device.",
            machine => Edit(machine, files => files.Delete($@"{System32}\drivers\disk.sys")))
        {
            Remembered = memory => memory.RepairTried(0x7B)
        },
        new(
            "driver-altered",
            "BF-1100",
            "Workshop, {0}",
            "I copied drivers from a stick that had gone bad. 0xc0000221, storahci.",
            machine => Change(machine, $@"{System32}\drivers\storahci.sys", bytes => bytes[3000] ^= 0x80))
        {
            Remembered = memory => memory.StartFailed()
        },
        new(
            "files-packed-damaged",
            "BF-1195",
            "Ferry tablet, {0}",
            "The little tablet has its Windows packed to save room. Since the fall it says 0xc0000221.",
            machine => Edit(machine, files => DamagePacked((NtfsVolume)files, $@"{System32}\drivers\disk.sys")))
        {
            FindingId = "driver-altered"
        },
        new(
            "storage-driver-disabled",
            "BF-1101",
            "Workshop, {0}",
            "After the board change: stop 0x7b, inaccessible boot device.",
            machine =>
        {
            foreach (var name in (string[])["storahci", "stornvme"])
                Number(machine, $@"ControlSet001\Services\{name}", ["Start"], 4);
        })
        {
            Remembered = memory => memory.RepairTried(0x7B)
        },
        new(
            "volume-unclean",
            "BF-1102",
            "Bridge, {0}",
            "The plug was pulled. It starts, but it wanted to check the disk, and somebody pressed a key.",
            MarkUnclean),
        new(
            "volume-hibernated",
            "BF-1103",
            "Night purser, {0}",
            "It hung when it woke up, so I took the disk to the other machine.",
            Hibernate),
        new(
            "mft-mirror-differs",
            "BF-1105",
            "Chart room, {0}",
            "Stop 0x24, ntfs file system, since the disk has clicked.",
            machine => Mirror(machine, (blocks, at) => blocks.Write(at, new byte[64])))
        {
            Remembered = memory =>
            {
                memory.DiskFailed(9);
                memory.Stopped(0x24, 0xb500190637);
            }
        },
        new(
            "system-volume-full",
            "BF-1106",
            "Back office, {0}",
            "The update always fails, it cannot write to the reserved partition.",
            FillUp),
        new(
            "driver-new-and-bad",
            "BF-1108",
            "Wheelhouse, {0}",
            "Somebody came for the tide gauge this morning. He put a disk in, restarted it, and left. Now it is blue.",
            AddBadDriver)
        {
            Remembered = memory =>
            {
                memory.Installed(NewDriver, $@"\SystemRoot\System32\drivers\{NewDriver}.sys", "boot start");
                memory.StartFailed();
            }
        },
        new(
            "update-half-done",
            "BF-1109",
            "Slipway office, {0}",
            "It wanted to update, and I had to catch the ferry, so I switched it off. It tries to repair itself now, for ever.",
            _ => { })
        {
            Remembered = memory =>
            {
                memory.Updated("Tide tables, cumulative", isDone: false);
                memory.ServicingStopped();
                memory.StartFailed();
            }
        },
        new(
            "clone-beside-original",
            "BF-1107",
            "Workshop, {0}",
            "I put the copy in beside the old disk, to compare. 0xc000000e since then.",
            _ => { }) { WithClone = true }
    ];

    private static DiskVolume Windows(Machine machine) => machine.Installations[0].Volume;

    private static string Loader(Machine machine) => $@"{System32}\{machine.BootFiles.LoaderName}";

    private static void EditHive(Machine machine, Action<HiveNode> change)
    {
        var volume = Windows(machine);
        var root = Hives.Hive.Open(volume.Files!.ReadFile(Hive)).ReadTree();
        change(root);
        volume.Edit(files => files.WriteFile(Hive, HiveWriter.Write(root, PracticeHives.HiveMinorVersion)));
    }

    private static void Edit(Machine machine, Action<IVolume> change) => Windows(machine).Edit(change);

    private static void Change(Machine machine, string path, Action<byte[]> change) => Edit(machine, files =>
    {
        var bytes = files.ReadFile(path);
        change(bytes);
        files.WriteFile(path, bytes);
    });

    /// <summary>Changes numbers of a key of the SYSTEM hive in place.</summary>
    private static void Number(Machine machine, string key, string[] names, uint number)
    {
        var volume = Windows(machine);
        var found = Hives.Hive.Open(volume.Files!.ReadFile(Hive)).Root.Find(key)!;
        var places = names.Select(name => found.PlaceOfNumber(name)!.Value).ToList();
        volume.Edit(files => places.ForEach(place => files.Patch(Hive, place, BitConverter.GetBytes(number))));
    }

    /// <summary>Packs a file, the spare copy staying as it is, and spoils a piece of what is packed.</summary>
    private static void DamagePacked(NtfsVolume files, string path)
    {
        const uint lzx = 1;
        const int at = 600;
        files.WriteFile(path, files.ReadFile(path));
        files.Pack(path, lzx);
        files.PatchPacked(path, at, Enumerable.Repeat((byte)0x5A, 64).ToArray());
    }

    /// <summary>A driver that starts with the loader comes onto the machine; its file is bad, and so is the spare copy.</summary>
    private static void AddBadDriver(Machine machine)
    {
        var volume = Windows(machine);
        var root = Hives.Hive.Open(volume.Files!.ReadFile(Hive)).ReadTree();
        var day = DateTimeOffset.FromFileTime(root.LastWritten).UtcDateTime.Date;
        var installed = new DateTimeOffset(day, TimeSpan.Zero).AddHours(8).AddMinutes(40).ToFileTime();
        var services = root.Child("ControlSet001")!.Child("Services")!;
        var driver = services.ChildOrNew(NewDriver)
            .Set(HiveValue.OfNumber("Start", 0))
            .Set(HiveValue.OfNumber("Type", 1))
            .Set(HiveValue.OfNumber("ErrorControl", 3))
            .Set(HiveValue.OfText("Group", "Extended Base"))
            .Set(HiveValue.OfText("ImagePath", $@"\SystemRoot\System32\drivers\{NewDriver}.sys"));
        driver.LastWritten = installed;
        var file = StandInProgram.Make($"{NewDriver}.sys", "2.4.0.7", Subsystem.Native, bodyBytes: 4_000);
        file[3000] ^= 0x40;
        var store = $@"{System32}\DriverStore\FileRepository\{NewDriver}.inf_amd64_b4ac0107";
        volume.Edit(files =>
        {
            files.CreateFolder(store);
            files.WriteFile($@"{store}\{NewDriver}.sys", file);
            files.WriteFile($@"{System32}\drivers\{NewDriver}.sys", file);
            files.WriteFile(Hive, HiveWriter.Write(root, PracticeHives.HiveMinorVersion));
        });
    }

    /// <summary>A page of the hive is lost, and a log of the new form has it.</summary>
    private static void Tear(Machine machine)
    {
        const int lost = HiveHeader.Size + 1024;
        var whole = Windows(machine).Files!.ReadFile(Hive);
        var torn = whole.ToArray();
        torn.AsSpan(lost, SectorBytes).Clear();
        var header = HiveHeader.TryRead(torn)!;
        (header with { PrimarySequence = header.PrimarySequence + 1 }).Write(torn);
        Edit(machine, files =>
        {
            files.WriteFile(Hive, torn);
            files.WriteFile(
                Hive + ".LOG1",
                HiveLog.WriteNew(whole, header.PrimarySequence, [(lost - HiveHeader.Size) / SectorBytes]));
        });
    }

    /// <summary>Sets the mark in $Volume, record 3, and in its mirror.</summary>
    private static void MarkUnclean(Machine machine)
    {
        const int volumeRecord = 3, attributesAt = 0x14, informationType = 0x70, contentAt = 0x14, flagsAt = 10;
        var blocks = Windows(machine).Blocks;
        var boot = NtfsBootSector.TryRead(blocks.ReadBytes(0, NtfsBootSector.Size))!;
        foreach (var cluster in (long[])[boot.MftCluster, boot.MftMirrorCluster])
        {
            var start = (cluster * boot.ClusterBytes) + (volumeRecord * boot.RecordBytes);
            var record = blocks.ReadBytes(start, boot.RecordBytes);
            int at = BinaryPrimitives.ReadUInt16LittleEndian(record.AsSpan(attributesAt));
            while (BinaryPrimitives.ReadInt32LittleEndian(record.AsSpan(at)) != informationType)
                at += BinaryPrimitives.ReadInt32LittleEndian(record.AsSpan(at + 4));
            blocks.Write(start + at + BinaryPrimitives.ReadUInt16LittleEndian(record.AsSpan(at + contentAt)) + flagsAt, [1]);
        }
    }

    private static void Hibernate(Machine machine)
    {
        StoreFaults.EditStore(machine, store => store.Manager!.Set(Element.ResumePending, true));
        var image = new byte[64 * 1024];
        "HIBR"u8.CopyTo(image);
        Edit(machine, files => files.WriteFile(@"\hiberfil.sys", image));
    }

    private static void Mirror(Machine machine, Action<IWritableBlocks, long> change)
    {
        var blocks = Windows(machine).Blocks;
        var boot = NtfsBootSector.TryRead(blocks.ReadBytes(0, NtfsBootSector.Size))!;
        change(blocks, boot.MftMirrorCluster * boot.ClusterBytes);
    }

    private static void FillUp(Machine machine)
    {
        const int leftBytes = 40 * 1024, pieceBytes = 8 * 1024 * 1024, roomForRecords = 16 * 1024;
        machine.SystemVolume!.Edit(files =>
        {
            files.CreateFolder(@"\Sailings");
            for (var number = 1; files.FreeBytes - leftBytes is var free and > roomForRecords; number++)
                files.WriteFile($@"\Sailings\old{number}.bin", new byte[Math.Min(pieceBytes, free - roomForRecords + 1)]);
        });
    }
}

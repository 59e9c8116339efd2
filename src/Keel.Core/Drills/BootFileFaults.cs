using Keel.Core.Firmware;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;
using Keel.Core.Windows;
using Processor = System.Reflection.PortableExecutable.Machine;

namespace Keel.Core.Drills;

/// <summary>Faults of the boot files, of the EFI system partition, and of the firmware's entries.</summary>
internal static class BootFileFaults
{
    private const uint NewSerial = 0x0F04A77E;
    private static readonly Guid GonePartition = new("5ea57a1e-0000-4000-8000-00000000d15c");

    public static readonly IReadOnlyList<Fault> All =
    [
        new(
            "manager-missing",
            "BF-1074",
            "Ticket office, {0}",
            "I made room on the small drive. Now it finds nothing to start.",
            machine => Edit(machine, (files, path) => files.Delete(path))),
        new(
            "manager-empty",
            "BF-1075",
            "Night purser, {0}",
            "It froze in the update, I switched it off, and now it will not start at all.",
            machine => Edit(machine, (files, path) => files.WriteFile(path, []))),
        new(
            "manager-cut-short",
            "BF-1076",
            "Workshop, {0}",
            "I copied the start files over from a stick that was full. It stops at once.",
            machine => Edit(machine, (files, path) => files.WriteFile(path, files.ReadFile(path).AsSpan(0, 30_000)))),
        new(
            "manager-compressed",
            "BF-1077",
            "Kiosk, {0}",
            "BOOTMGR is compressed, it says. I only pressed: compress drive to save space.",
            machine => Edit(machine, Compress)) { Only = FirmwareKind.Bios },
        new(
            "manager-altered",
            "BF-1124",
            "Bridge, {0}",
            "The disk had bad spots and was copied. Only a cursor blinks.",
            machine => Edit(machine, (files, path) =>
            {
                var bytes = files.ReadFile(path);
                bytes.AsSpan(bytes.Length / 2, 1024).Fill(0x5A);
                files.WriteFile(path, bytes);
            })) { Only = FirmwareKind.Bios },
        new(
            "manager-damaged",
            "BF-1125",
            "Kiosk, {0}",
            "I fetched the boot file from a web page. It does nothing.",
            machine => Edit(machine, (files, path) =>
            {
                var page = "<html><body>This file has moved to the harbour office.</body></html>\n"u8;
                var bytes = new byte[files.Find(path)!.SizeBytes];
                for (var at = 0; at < bytes.Length; at++) bytes[at] = page[at % page.Length];
                files.WriteFile(path, bytes);
            })),
        new(
            "fallback-damaged",
            "BF-1126",
            "Workshop, {0}",
            "It only starts where it always was; in any other machine it finds nothing.",
            machine => machine.SystemVolume!.Edit(files =>
            {
                var path = FallbackFile.PathFor(machine.Processor);
                var bytes = files.ReadFile(path);
                bytes.AsSpan(bytes.Length / 2, 512).Fill(0x5A);
                files.WriteFile(path, bytes);
            })) { Only = FirmwareKind.Uefi },
        new(
            "manager-wrong-machine",
            "BF-1078",
            "Apprentice's bench, {0}",
            "I took the boot file of the new tablet, it has the same name.",
            machine => Edit(machine, (files, path) =>
            files.WriteFile(path, StandInManager.MakeEfi("bootmgfw.efi", "10.0.19045.1", Processor.Arm64))))
            {
                Only = FirmwareKind.Uefi
            },
        new(
            "fallback-missing",
            "BF-1079",
            "Chart room, {0}",
            "After the flat battery on the board it finds no system, until I choose one by hand.",
            machine =>
            machine.SystemVolume!.Edit(files => files.Delete(FallbackFile.PathFor(null)))) { Only = FirmwareKind.Uefi },
        new(
            "esp-formatted",
            "BF-1080",
            "Back office, {0}",
            "A program offered to format a drive of 100 MB without a name. No bootable device since.",
            machine =>
            FatFormat.Format(
                machine.SystemVolume!.Blocks,
                "NEW",
                NewSerial,
                (uint)(machine.SystemVolume.Partition.Range.Start / machine.StartDisk.Overlay.SectorBytes)))
                {
                    Only = FirmwareKind.Uefi
                },
        new(
            "esp-wrong-type",
            "BF-1081",
            "Workshop, {0}",
            "I set the small partition to data, to look into it with a drive letter. It does not start any more.",
            machine =>
            GptEditor.SetType(machine.StartDisk.Overlay, machine.SystemVolume!.Number, PartitionTypes.GptBasicData))
            {
                Only = FirmwareKind.Uefi,
                FirmwareStartsIt = true
            },
        new(
            "esp-fat-damaged",
            "BF-1082",
            "Harbour master's desk, {0}",
            "The disk made a noise, now it says no bootable device.",
            DamageTable) { Only = FirmwareKind.Uefi },
        new(
            "files-hidden-locked",
            "BF-1083",
            "Purser's cabin, {0}",
            "A cleaning program protected the system files, it says. The menu cannot be changed since.",
            HideAndLock),
        new(
            "firmware-entry-missing",
            "BF-1084",
            "Gangway desk, {0}",
            "New board, old disk: it goes to the firmware's own menu.",
            machine => machine.Variables!.Drop(0)) { Only = FirmwareKind.Uefi },
        new(
            "firmware-entries-stale",
            "BF-1085",
            "Bridge, {0}",
            "The start menu of the firmware is full of systems we have not had for years.",
            AddStale) { Only = FirmwareKind.Uefi },
        new(
            "firmware-order-wrong",
            "BF-1086",
            "Ticket office, {0}",
            "It looks for the network for minutes and then stops. Somebody was in the firmware's settings.",
            machine => machine.Variables!.Order = [1]) { Only = FirmwareKind.Uefi },
        new(
            "layout-firmware-mismatch",
            "BF-1087",
            "Old ticket machine, {0}",
            "We put the old machine's disk into the new one, and it finds no system on it.",
            machine => machine.Variables!.SetEntry(0, PracticeVariables.Network()))
            {
                Only = FirmwareKind.Bios,
                NeedsVariables = true
            }
    ];

    private static void Edit(Machine machine, Action<IVolume, string> change)
    {
        var path = machine.BootFiles.ManagerPath;
        machine.SystemVolume!.Edit(files => change(files, path));
    }

    /// <summary>Makes the file anew in a folder that compresses, as Windows would.</summary>
    private static void Compress(IVolume files, string path)
    {
        var volume = (NtfsVolume)files;
        var bytes = volume.ReadFile(path);
        var marks = volume.Find(path)!.Marks;
        volume.Delete(path);
        volume.WriteCompressed(path, bytes);
        volume.SetMarks(path, marks);
    }

    /// <summary>The first sector of the first table is gone, and with it the chains of the folders.</summary>
    private static void DamageTable(Machine machine)
    {
        var blocks = machine.SystemVolume!.Blocks;
        var sector = new byte[FatBootSector.Size];
        blocks.Read(0, sector);
        var parameters = FatBootSector.TryRead(sector)!;
        blocks.Write((long)parameters.ReservedSectors * parameters.BytesPerSector, new byte[parameters.BytesPerSector]);
    }

    private static void HideAndLock(Machine machine)
    {
        var (manager, store) = (machine.BootFiles.ManagerPath, machine.BootFiles.StorePath);
        machine.SystemVolume!.Edit(files =>
        {
            foreach (var path in ((string[])[manager, store]).Where(files.FileExists))
                files.SetMarks(path, FileMarks.ReadOnly | FileMarks.Hidden | FileMarks.System | FileMarks.Archive);
        });
    }

    private static void AddStale(Machine machine)
    {
        var variables = machine.Variables!;
        var system = machine.SystemVolume!;
        var here = HardDrivePlace.Of(system.DiskIdentity, system.Partition, system.Blocks.SectorBytes);
        var gone = variables.Add(
            LoadOption.OfWindows("Windows Boot Manager", here with { Id = GonePartition }, BootFiles.Uefi.ManagerPath));
        var removed = variables.Add(
            new LoadOption(
                LoadOption.ActiveBit,
                "Timetable board",
                [DevicePathNode.Of(here), DevicePathNode.OfFile(@"\EFI\board\start.efi")],
                []));
        variables.Order = [gone, removed, .. variables.Order];
    }
}

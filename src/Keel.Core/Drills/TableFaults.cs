using Keel.Core.Blocks;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Drills;

/// <summary>Faults of partition tables that were lost, and of partitions that no longer fit what is in them.</summary>
internal static class TableFaults
{
    private const int EntriesCrcAt = 88;

    public static readonly IReadOnlyList<Fault> All =
    [
        new(
            "table-missing",
            "BF-1110",
            "Workshop, {0}",
            "A recipe said to fill the first sector with zeros. No bootable device since.",
            machine => machine.StartDisk.Overlay.Write(0, new byte[MasterBootRecord.Size])) { Only = FirmwareKind.Bios },
        new(
            "volume-unlisted",
            "BF-1111",
            "Apprentice's bench, {0}",
            "I deleted a partition, I thought it was the old one. 0xc000000e.",
            machine => DropPartition(machine, WindowsOf(machine))) { FirmwareStartsIt = true },
        new(
            "gpt-both-damaged",
            "BF-1112",
            "Chart room, {0}",
            "The copy station crashed. Neither this computer nor the other one sees any volume on it.",
            DamageBothHeaders) { Only = FirmwareKind.Uefi },
        new(
            "gpt-overwritten",
            "BF-1113",
            "Apprentice's bench, {0}",
            "I put the first sector of our old machines on it. Now nothing starts.",
            WriteOldTable) { Only = FirmwareKind.Uefi },
        new(
            "partition-wrong-type",
            "BF-1114",
            "Purser's cabin, {0}",
            "A program hid a partition, so that nobody breaks it. Blue screen, stop 7B.",
            HideWindows) { FirmwareStartsIt = true },
        new(
            "partition-read-only",
            "BF-1187",
            "Chart room, {0}",
            "I wrote protection onto the copy, so that nobody changes it. Then I put it in. Stop 7B.",
            machine => GptEditor.SetAttributes(
                machine.StartDisk.Overlay,
                machine.Installations[0].Volume.Number,
                Partition.ReadOnlyAttribute)) { Only = FirmwareKind.Uefi, FirmwareStartsIt = true },
        new(
            "partition-too-small",
            "BF-1115",
            "Back office, {0}",
            "I made the partition smaller with a program, and the program broke off. Unmountable boot volume.",
            Shrink) { FirmwareStartsIt = true },
        new(
            "esp-missing",
            "BF-1116",
            "Kiosk, {0}",
            "I deleted the small partition and overwrote it, it had no letter anyway.",
            machine =>
            {
                WipeVolume(machine.SystemVolume!);
                DropPartition(machine, machine.SystemVolume!);
            }) { Only = FirmwareKind.Uefi },
        new(
            "esp-no-file-system",
            "BF-1117",
            "Gangway desk, {0}",
            "A program overwrote the small partition with zeros. No bootable device.",
            machine => WipeVolume(machine.SystemVolume!)) { Only = FirmwareKind.Uefi },
        new(
            "windows-volume-sector-wiped",
            "BF-1118",
            "Night purser, {0}",
            "On the other computer the disk wants to be formatted. Here: a required device isn't connected.",
            machine => WindowsOf(machine).Blocks.Write(0, new byte[16 * NtfsBootSector.Size]))
    ];

    private static DiskVolume WindowsOf(Machine machine) => machine.Installations[0].Volume;

    private static void DropPartition(Machine machine, DiskVolume volume)
    {
        var overlay = machine.StartDisk.Overlay;
        if (machine.StartDisk.Layout.Scheme == PartitionScheme.Gpt)
        {
            GptEditor.SetType(overlay, volume.Number, Guid.Empty);
            return;
        }

        EditRecord(overlay, record => record.ClearSlot(volume.Number - 1));
    }

    private static void EditRecord(Overlay overlay, Action<MasterBootRecord> change)
    {
        var record = new MasterBootRecord(overlay.ReadBytes(0, MasterBootRecord.Size));
        change(record);
        overlay.Write(0, record.ToBytes());
    }

    private static void DamageBothHeaders(Machine machine)
    {
        var overlay = machine.StartDisk.Overlay;
        overlay.Write(overlay.SectorBytes + EntriesCrcAt, new byte[sizeof(uint)]);
        overlay.Write(overlay.LengthBytes - overlay.SectorBytes + EntriesCrcAt, new byte[sizeof(uint)]);
    }

    private static void WriteOldTable(Machine machine) => EditRecord(machine.StartDisk.Overlay, record =>
    {
        const uint firstSector = 63, sectors = 200_000;
        record.SetSlot(0, new PartitionSlot(PartitionSlot.ActiveMark, PartitionTypes.Ntfs, firstSector, sectors));
    });

    private static void HideWindows(Machine machine)
    {
        const byte hiddenNtfs = 0x17;
        var overlay = machine.StartDisk.Overlay;
        var number = WindowsOf(machine).Number;
        if (machine.StartDisk.Layout.Scheme == PartitionScheme.Gpt)
            GptEditor.SetType(overlay, number, PartitionTypes.GptRecovery);
        else
            EditRecord(overlay, record => record.SetType(number - 1, hiddenNtfs));
    }

    private static void Shrink(Machine machine)
    {
        var overlay = machine.StartDisk.Overlay;
        var windows = WindowsOf(machine);
        var sectors = windows.Partition.Range.Length / overlay.SectorBytes;
        var fewer = sectors - (sectors / 8);
        if (machine.StartDisk.Layout.Scheme == PartitionScheme.Gpt)
        {
            GptEditor.SetEnd(overlay, windows.Number, (windows.Partition.Range.Start / overlay.SectorBytes) + fewer - 1);
            return;
        }

        EditRecord(overlay, record =>
            record.SetSlot(windows.Number - 1, record.Slot(windows.Number - 1) with { SectorCount = (uint)fewer }));
    }

    /// <summary>Fills with zeros what is not zero.</summary>
    private static void WipeVolume(DiskVolume volume)
    {
        const int pieceBytes = 64 * 1024;
        var blocks = volume.Blocks;
        for (var at = 0L; at < blocks.LengthBytes; at += pieceBytes)
        {
            var count = (int)Math.Min(pieceBytes, blocks.LengthBytes - at);
            if (blocks.ReadBytes(at, count).AsSpan().ContainsAnyExcept((byte)0)) blocks.Write(at, new byte[count]);
        }
    }
}

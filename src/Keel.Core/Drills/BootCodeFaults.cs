using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Drills;

/// <summary>Faults of the first four links of a BIOS disk.</summary>
internal static class BootCodeFaults
{
    private const int MarkAt = 0x1FE, SectorBytes = 512;

    public static readonly IReadOnlyList<Fault> All = new Fault[]
    {
        new(
            "mbr-code-wiped",
            "BF-1046",
            "Ticket office, {0}",
            "Black screen, only a little line that blinks in the corner.",
            machine => EditMbr(machine, record => record.SetCode([]))),
        new(
            "mbr-mark-missing",
            "BF-1047",
            "Harbour master's desk, {0}",
            "It says no bootable device. The disk is in there, I can hear it.",
            machine => EditMbr(machine, record => record.HasMark = false)),
        new(
            "table-two-active",
            "BF-1048",
            "Workshop, {0}",
            "Invalid partition table, it says. I had a partition program open last week.",
            machine => EditMbr(machine, record => record.SetActive(1, active: true))),
        new(
            "table-none-active",
            "BF-1049",
            "Kiosk, {0}",
            "No bootable device, insert a system disk. But nobody touched it.",
            machine => EditMbr(machine, record => record.SetActive(0, active: false))),
        new(
            "table-active-wrong",
            "BF-1050",
            "Back office, {0}",
            "A program for partitions asked which one to start, I took the big one.",
            machine => EditMbr(machine, record =>
        {
            record.SetActive(0, active: false);
            record.SetActive(1, active: true);
        })),
        new(
            "table-overlap",
            "BF-1051",
            "Workshop, {0}",
            "I typed the table in again from a photograph. Missing operating system now.",
            machine => EditMbr(machine, record => Move(record, record.Slot(1).FirstSector + 4096))),
        new(
            "table-past-end",
            "BF-1052",
            "Purser's cabin, {0}",
            "After moving to the small disk: error loading operating system.",
            machine =>
                EditMbr(
                    machine,
                    record =>
                        Move(
                            record,
                            (uint)(machine.StartDisk.Overlay.LengthBytes / machine.StartDisk.Overlay.SectorBytes) + 2048))),
        new(
            "foreign-mbr-code",
            "BF-1053",
            "Apprentice's bench, {0}",
            "I tried another system beside Windows and took it off again. Now it stops with a word I don't know.",
            machine => EditMbr(machine, record => record.SetCode(ForeignCode()))),
        new(
            "sector-wiped",
            "BF-1054",
            "Night purser, {0}",
            "Missing operating system, since the disk check was broken off.",
            machine => Wipe(machine, 0)),
        new(
            "sector-wrong-hidden",
            "BF-1055",
            "Workshop, {0}",
            "A disk read error occurred. I had copied the partition to its new place.",
            machine => EditSector(machine, MoveFarther)),
        new(
            "sector-mark-missing",
            "BF-1056",
            "Gangway desk, {0}",
            "Missing operating system, white on black.",
            machine => EditSector(machine, sector => sector[MarkAt] = sector[MarkAt + 1] = 0)),
        new(
            "sector-both-copies-gone",
            "BF-1057",
            "Chart room, {0}",
            "Missing operating system. A cleaning program ran over the first drive.",
            machine =>
        {
            Wipe(machine, 0);
            Wipe(
                machine,
                machine.StartDisk.Volumes.First(volume =>
                    volume.Number == 1).Blocks.LengthBytes - machine.StartDisk.Overlay.SectorBytes);
        }),
        new(
            "sector-nt5-code",
            "BF-1058",
            "Old ticket machine, {0}",
            "NTLDR is missing, it says. Somebody put an old Windows beside the new one and removed it.",
            machine =>
            BootSectorEditor.WriteCode(machine.SystemVolume!, KeelBootCode.Ntfs(LoaderKind.Nt5Loader)))
    }.Select(fault => fault with { Only = FirmwareKind.Bios }).ToList();

    private static void EditMbr(Machine machine, Action<MasterBootRecord> change)
    {
        var overlay = machine.StartDisk.Overlay;
        var record = new MasterBootRecord(overlay.ReadBytes(0, MasterBootRecord.Size));
        change(record);
        overlay.Write(0, record.ToBytes());
    }

    private static void Move(MasterBootRecord record, uint firstSector) =>
        record.SetSlot(0, record.Slot(0) with { FirstSector = firstSector });

    /// <summary>Lets the sector say that the volume lies elsewhere.</summary>
    private static void MoveFarther(byte[] sector)
    {
        var head = sector.At<BootParameterRecord>(0);
        head.HiddenSectors ^= 0x3F;
        sector.Put(0, head);
    }

    private static void EditSector(Machine machine, Action<byte[]> change)
    {
        var blocks = machine.SystemVolume!.Blocks;
        var sector = blocks.ReadBytes(0, SectorBytes);
        change(sector);
        blocks.Write(0, sector);
    }

    private static void Wipe(Machine machine, long offsetBytes) =>
        machine.StartDisk.Volumes.First(volume => volume.Number == 1).Blocks.Write(offsetBytes, new byte[SectorBytes]);

    /// <summary>
    /// A few instructions that print the name of another loader and stay: what is left of one that was taken off.
    /// </summary>
    private static byte[] ForeignCode() =>
    [
        0xFA,
        0x31,
        0xC0,
        0x8E,
        0xD8,
        0xBE,
        0x15,
        0x7C,
        0xAC,
        0x84,
        0xC0,
        0x74,
        0x06,
        0xB4,
        0x0E,
        0xCD,
        0x10,
        0xEB,
        0xF5,
        0xF4,
        0xF4,
        .. "GRUB rescue"u8, 0
    ];
}

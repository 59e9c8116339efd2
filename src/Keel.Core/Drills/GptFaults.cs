using Keel.Core.Blocks;
using Keel.Core.Machines;

namespace Keel.Core.Drills;

/// <summary>Faults of a GUID partition table.</summary>
internal static class GptFaults
{
    private const int TableAt = 446, TableBytes = 66, EntriesCrcAt = 88;

    public static readonly IReadOnlyList<Fault> All =
    [
        new(
            "gpt-primary-damaged",
            "BF-1059",
            "Chart room, {0}",
            "It takes very long to start since the crash, and sometimes it finds no disk.",
            machine => Flip(machine.StartDisk.Overlay, machine.StartDisk.Overlay.SectorBytes + EntriesCrcAt))
            {
                Only = FirmwareKind.Uefi,
                FirmwareStartsIt = true
            },
        new(
            "gpt-backup-damaged",
            "BF-1060",
            "Workshop, {0}",
            "The copy to the new disk was broken off near the end. It starts, but should I trust it?",
            machine =>
                Flip(
                    machine.StartDisk.Overlay,
                    machine.StartDisk.Overlay.LengthBytes - machine.StartDisk.Overlay.SectorBytes + EntriesCrcAt))
                    {
                        Only = FirmwareKind.Uefi,
                        FirmwareStartsIt = true
                    },
        new(
            "gpt-protective-missing",
            "BF-1061",
            "Apprentice's bench, {0}",
            "I wiped the very first sector, as the recipe said. No bootable device.",
            machine => machine.StartDisk.Overlay.Write(TableAt, new byte[TableBytes])) { Only = FirmwareKind.Uefi }
    ];

    private static void Flip(Overlay overlay, long offset)
    {
        var one = overlay.ReadBytes(offset, 1);
        one[0] ^= 0xFF;
        overlay.Write(offset, one);
    }
}

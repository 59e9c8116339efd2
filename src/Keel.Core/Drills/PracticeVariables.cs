using Keel.Core.Firmware;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Drills;

/// <summary>The firmware variables of a practice machine: a folder beside its image.</summary>
public static class PracticeVariables
{
    /// <summary>The folder for an image.</summary>
    public static string FolderFor(string imagePath) => imagePath + ".variables";

    /// <summary>What a sound machine has: Windows first, then the network.</summary>
    internal static void Fill(Machine machine)
    {
        var variables = machine.Variables!;
        var system = machine.SystemVolume!;
        var place = HardDrivePlace.Of(system.DiskIdentity, system.Partition, system.Blocks.SectorBytes);
        variables.SetEntry(0, LoadOption.OfWindows("Windows Boot Manager", place, BootFiles.Uefi.ManagerPath));
        variables.SetEntry(1, Network());
        variables.Order = [0, 1];
    }

    /// <summary>An entry that starts from a network card, as firmware makes them by itself.</summary>
    internal static LoadOption Network() => new(
        LoadOption.ActiveBit,
        "UEFI PXEv4 (MAC:0242B4AC0042)",
        [
            new DevicePathNode(2, 1, [0xD0, 0x41, 0x03, 0x0A, 0, 0, 0, 0]),
            new DevicePathNode(1, 1, [0, 3]),
            new DevicePathNode(3, 11, [0x02, 0x42, 0xB4, 0xAC, 0, 0x42, .. new byte[26], 1])
        ],
        []);
}

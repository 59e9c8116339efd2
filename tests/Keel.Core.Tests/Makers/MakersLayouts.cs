namespace Keel.Core.Tests.Makers;

/// <summary>
/// Sixty machines: sizes are small, the order of the volumes, their types, attributes, file systems and stores are those of real
/// ones.
/// </summary>
internal static class MakersLayouts
{
    private const int Seven = 7601, Eight = 9600, Ten = 19045, TenFirst = 10240, Eleven = 22631;
    private const string Locked = "volume-encrypted";

    public static readonly IReadOnlyList<MakersLayout> All =
    [
        // What setup itself makes.
        new("Windows 7, as setup makes it", "dos: system*:24 windows:56") { Build = Seven },
        new("Windows 7, no volume of the system's own", "dos: windows*:64") { Build = Seven },
        new("Windows 7, on a disk partitioned by Windows XP", "dos: windows*:64") { Build = Seven, FirstSector = 63 },
        new("Windows 7, through UEFI", "gpt: esp:40 msr:16 windows:56") { Build = Seven },
        new("Windows 8.1, recovery first", "gpt: winre:24 esp:40 msr:16 windows:56") { Build = Eight },
        new("Windows 8.1, BIOS", "dos: system*:32 windows:56") { Build = Eight },
        new("Windows 10 of 2015, recovery first", "gpt: winre:24 esp:40 msr:16 windows:56") { Build = TenFirst },
        new("Windows 10, recovery first, by hand", "sgdisk: winre:24 esp:40 msr:16 windows:56"),
        new("Windows 10, recovery last", "gpt: esp:40 msr:16 windows:56 winre:24") { Build = Ten },
        new("Windows 10, recovery last, BIOS", "dos: system*:24 windows:56 winre:24") { Build = Ten },
        new("Windows 11, as setup makes it", "gpt: esp:40 msr:16 windows:56 winre:24") { Build = Eleven, HasVariables = true },
        new("Windows 11, with a volume for data", "gpt: esp:40 msr:16 windows:56 winre:24 data:24") { Build = Eleven },
        new("Windows 11, no reserved partition", "gpt: esp:40 windows:56 winre:24") { Build = Eleven },
        new("Windows 11, no recovery", "sgdisk: esp:40 msr:16 windows:56") { Build = Eleven, HasVariables = true },

        // What makers make of it.
        new("A maker's, BIOS: diagnostics, Windows, restore", "dos: diagnostics:24 windows*:56 restore:24") { Build = Seven },
        new("A maker's, BIOS: diagnostics, system, Windows, restore", "dos: diagnostics:24 system*:24 windows:56 restore:24")
        {
            Build = Seven
        },
        new("A maker's, BIOS: system, Windows, restore, tools", "dos: system*:24 windows:56 restore:24 restore-fat:40")
        {
            Build = Seven
        },
        new("A maker's, BIOS: factory image first", "dos: restore-readonly:24 system*:24 windows:56") { Build = Seven },
        new("A maker's, BIOS: factory image last, type 12", "dos: system*:24 windows:56 restore-readonly:24") { Build = Eight },
        new("A maker's: own tools, factory image", "gpt: winre:24 esp-hidden:40 esp-maker:40 msr:16 windows:56 restore:24")
        {
            Build = Eight
        },
        new("A maker's: tools in a second EFI volume", "gpt: esp:40 esp-maker:40 msr:16 windows:56 winre:24 restore:24"),
        new("A maker's: diagnostics in a FAT volume", "gpt: esp:40 msr:16 windows:56 winre:24 restore:24 restore-fat:40")
        {
            Build = Eleven,
            HasVariables = true
        },
        new("A maker's: recovery in a hidden volume of plain data", "gpt: winre-plain:24 esp-hidden:40 msr:16 windows:56"),
        new("A maker's: plain recovery, a volume of drivers", "gpt: winre-plain:24 esp:40 msr:16 windows:56 data:24 restore:24"),
        new("A maker's: factory image that can't be written", "gpt: esp:40 msr:16 windows:56 winre:24 restore-readonly:24")
        {
            Build = Eleven
        },
        new("A maker's: numbers out of order", "sgdisk: winre:24#4 esp:40#2 msr:16#1 windows:56#3 restore:24#7"),
        new("A maker's: two recoveries, the older one orphaned", "gpt: winre:24 esp:40 msr:16 windows:56 restore:24 data:24"),
        new("A maker's: room kept for its own cache", "gpt: esp:40 msr:16 windows:56 winre:24 data-empty:24") { Build = Eleven },

        // What owners and helpdesks make of it.
        new("Windows made smaller, the rest free", "gpt: esp:40 msr:16 windows:56 gap:40 winre:24") { Build = Eleven },
        new("Recovery moved to the end for a larger Windows", "sgdisk: esp:40#1 msr:16#2 windows:64#3 gap:8 winre:24#5"),
        new("A copy on a larger disk", "dos: system*:24 windows:56 gap:60") { Build = Seven },
        new("Data in logical volumes", "dos: system*:24 windows:56 >data:24 >data-fat:40") { Build = Seven },
        new("Windows in a logical volume", "dos: system*:24 >windows:56 >data:24") { Build = Seven },
        new("Four logical volumes, one unformatted", "dos: windows*:56 >data:24 >data-empty:24 >data:24 >data-fat:40"),
        new("Beside Linux, BIOS", "dos: system*:24 windows:56 >linux:24 >swap:8") { Build = Seven },
        new("Beside Linux, UEFI", "gpt: esp:40 msr:16 windows:56 winre:24 linux:24 swap:8") { HasVariables = true },
        new("Beside Linux, its volumes first", "sgdisk: esp:40 linux:24 swap:8 msr:16 windows:56"),
        new("An EFI volume for Linux beside it", "gpt: esp:40 msr:16 windows:56 esp-empty:40 linux:24") { HasVariables = true },
        new("Two Windows on one disk, BIOS", "dos: system*:24 windows:56 windows:56"),
        new("Two Windows on one disk, UEFI", "gpt: esp:40 msr:16 windows:56 windows:56 winre:24") { HasVariables = true },
        new("Two Windows, one in a logical volume", "dos: windows*:56 >windows:56 >data:24") { Build = Seven },
        new("From a master image, searched for", "gpt: esp:40 msr:16 windows:56") { Devices = "search" },
        new("From a master image, BIOS, searched for", "dos: system*:24 windows:56") { Devices = "search", Build = Seven },
        new("From a master image, one volume, where it started", "dos: windows*:56") { Devices = "start", Build = Seven },
        new("Windows from a virtual machine's image", "dos: windows*:64 gap:8") { Build = Ten },

        // More than one disk.
        new("Data on a second disk", "gpt: esp:40 msr:16 windows:56 winre:24", "gpt: msr:16 data:40"),
        new("Data on a first disk, MBR", "dos: data:24 data-fat:40", "gpt: esp:40 msr:16 windows:56") { HasVariables = true },
        new("Data on a second disk, BIOS", "dos: system*:24 windows:56", "dos: data*:24") { Build = Seven },
        new("The system on one disk, Windows on the other, BIOS", "dos: system*:24 data:24", "dos: windows:56 data:24"),
        new("The system on one disk, Windows on the other", "gpt: esp:40 msr:16 data:24", "gpt: msr:16 windows:56")
        {
            HasVariables = true
        },
        new("Linux on a second disk", "gpt: esp:40 msr:16 windows:56", "gpt: esp-empty:40 linux:24") { HasVariables = true },
        new("An unformatted second disk", "gpt: esp:40 msr:16 windows:56", "gpt: data-empty:24") { Build = Eleven },

        // Sticks.
        new("A stick of setup, active, FAT", "dos: medium*:48"),
        new("A stick of setup, for UEFI alone", "dos: medium:48") { Build = Eleven },
        new("A stick of setup, GPT", "gpt: medium:48") { Build = Eleven },
        new("A stick of setup, with a volume for files", "dos: medium*:48 data:24"),

        // Encrypted.
        new("An encrypted Windows", "gpt: esp:40 msr:16 locked:56 winre:24") { Build = Eleven, Expected = [Locked] },
        new("An encrypted Windows, BIOS", "dos: system*:24 locked:56") { Build = Seven, Expected = [Locked] },
        new("An encrypted volume for data", "gpt: esp:40 msr:16 windows:56 winre:24 locked:24") { Build = Eleven },
        new("A clone of an encrypted disk", "gpt: esp:40 msr:16 locked:56 winre:24")
        {
            Build = Eleven,
            IsCloned = true,
            Expected = ["clone-beside-original", Locked]
        }
    ];
}

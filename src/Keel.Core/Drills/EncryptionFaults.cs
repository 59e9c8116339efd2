using Keel.Core.Blocks;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Volumes.BitLocker;

namespace Keel.Core.Drills;

/// <summary>Faults on machines whose Windows volume is encrypted.</summary>
internal static class EncryptionFaults
{
    private const string Loader = @"\Windows\System32\winload.exe", UefiLoader = @"\Windows\System32\winload.efi";
    private const string SystemHive = @"\Windows\System32\config\SYSTEM";

    public static IReadOnlyList<Fault> All { get; } =
    [
        new(
            "volume-encrypted",
            "BF-1104",
            "Harbour master's desk, {0}",
            "It asks for a recovery key since the firmware was updated.",
            _ => { })
        {
            IsEncrypted = true
        },
        new(
            "encrypted-loader-missing",
            "BF-1188",
            "Customs counter, {0}",
            "File winload is missing or contains errors, it says; nobody has the key at hand but the helpdesk.",
            machine => Windows(machine).Edit(files => files.Delete(machine.Firmware == FirmwareKind.Bios ? Loader : UefiLoader)))
        {
            IsEncrypted = true,
            FindingId = "loader-missing"
        },
        new(
            "encrypted-hive-torn",
            "BF-1189",
            "Crew office, {0}",
            "The registry cannot be loaded, since the battery ran out. It is one of the encrypted ones.",
            machine => Windows(machine).Edit(files =>
            {
                var bytes = files.ReadFile(SystemHive);
                bytes.AsSpan(HiveHeader.Size + 32, 600).Fill(0xEE);
                files.WriteFile(SystemHive, bytes);
            }))
        {
            IsEncrypted = true,
            FindingId = "system-hive-damaged"
        },
        new(
            "encrypted-recovery-prompt",
            "BF-1190",
            "Ticket office east, {0}",
            "It wants the BitLocker recovery key at every start since somebody tried a test driver.",
            machine => StoreFaults.EditStore(machine, store =>
            {
                store.Started!.Set(Element.KernelDebugging, true);
                store.Started!.Set(Element.AcceptTestSignatures, true);
            }))
        {
            IsEncrypted = true,
            FindingId = "entry-debugger-let-in"
        },
        new(
            "encryption-metadata-damaged",
            "BF-1191",
            "Pilot station, {0}",
            "The disk clicks now and then. It is an encrypted one, is there something to be afraid of?",
            _ => { })
        {
            IsEncrypted = true,
            BehindLock = machine => Damage(machine, 1)
        },
        new(
            "encrypted-metadata-one-left",
            "BF-1192",
            "Slipway, {0}",
            "After the bad sectors it still starts, but I would like to know how long.",
            _ => { })
        {
            IsEncrypted = true,
            FindingId = "encryption-metadata-damaged",
            BehindLock = machine => Damage(machine, 2)
        },
        new(
            "encrypted-suspended",
            "BF-1193",
            "Fuel jetty, {0}",
            "The protection was suspended for the firmware update, and now it does not start: winload is missing.",
            machine => Windows(machine).Edit(files => files.Delete(machine.Firmware == FirmwareKind.Bios ? Loader : UefiLoader)))
        {
            IsEncrypted = true,
            IsSuspended = true,
            FindingId = "loader-missing"
        },
        new(
            "encryption-metadata-lost",
            "BF-1194",
            "Lifeboat shed, {0}",
            "It takes no recovery key any more, since a partition program was tried on it.",
            _ => { })
        {
            IsEncrypted = true,
            BehindLock = machine => Damage(machine, EncryptionFacts.BlockCount)
        }
    ];

    private static DiskVolume Windows(Machine machine) => machine.Installations[0].Volume;

    /// <summary>Spoils the first blocks of the metadata.</summary>
    private static void Damage(Machine machine, int blocks)
    {
        const int methodAt = 100, placesAt = 0xB0;
        var volume = machine.Volumes.First(one => one.IsEncrypted).RawBlocks;
        var sector = volume.ReadBytes(0, EncryptionHeader.Bytes);
        for (var number = 0; number < blocks; number++)
            volume.Write(BitConverter.ToInt64(sector, placesAt + (number * sizeof(long))) + methodAt, [0xEE, 0xEE]);
    }
}

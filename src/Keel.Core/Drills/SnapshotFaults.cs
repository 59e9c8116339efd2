using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Subsystem = System.Reflection.PortableExecutable.Subsystem;

namespace Keel.Core.Drills;

/// <summary>Faults that only an older state of the volume helps with.</summary>
internal static class SnapshotFaults
{
    private const string System32 = @"\Windows\System32", Hive = $@"{System32}\config\SYSTEM";
    private const string Software = $@"{System32}\config\SOFTWARE", Driver = $@"{System32}\drivers\disk.sys";
    private static readonly DateTimeOffset Older = new(2026, 2, 18, 3, 0, 0, TimeSpan.Zero);
    private static readonly DateTimeOffset Younger = new(2026, 2, 27, 3, 0, 0, TimeSpan.Zero);

    public static readonly IReadOnlyList<Fault> All =
    [
        new(
            "system-hive-snapshot",
            "BF-1157",
            "Timetable office, {0}",
            "Stop code bad system config. I was told that the copies in RegBack are empty on these.",
            machine => Between(machine, WasUpdated, Damage(Hive)))
        {
            FindingId = "system-hive-damaged"
        },
        new(
            "software-hive-snapshot",
            "BF-1158",
            "Winter berth office, {0}",
            "0xc0000218, it can't load a hive. The disk has clicked since Thursday.",
            machine => Between(machine, Damage(Software), files => files.Delete(Software)))
        {
            FindingId = "software-hive-missing"
        },
        new(
            "driver-snapshot",
            "BF-1159",
            "Lighthouse stores, {0}",
            "Somebody deleted disk.sys and all that was named like it, with a tool for double files.",
            machine => Between(machine, WasUpdated, DeleteDriver))
        {
            FindingId = "driver-missing"
        }
    ];

    /// <summary>Two snapshots: something happens between them, and something after the younger.</summary>
    private static void Between(Machine machine, Action<IVolume> first, Action<IVolume> then)
    {
        var volume = machine.Installations[0].Volume;
        var disk = machine.StartDisk;
        volume.Edit(files => files.WriteFile($@"{System32}\config\RegBack\SYSTEM", []));
        var snapshots = new PracticeSnapshots(volume, disk.Overlay);
        snapshots.Before(Older, () => volume.Edit(first));
        snapshots.Before(Younger, () => volume.Edit(then));
        snapshots.Write();
    }

    private static void WasUpdated(IVolume files) => files.WriteFile(
        $@"{System32}\drivers\null.sys",
        StandInProgram.Make("null.sys", "10.0.19045.2", Subsystem.Native));

    private static Action<IVolume> Damage(string path) => files =>
    {
        var bytes = files.ReadFile(path);
        bytes.AsSpan(0, HiveHeader.Size + 600).Fill(0xEE);
        files.WriteFile(path, bytes);
    };

    private static void DeleteDriver(IVolume files)
    {
        files.Delete(Driver);
        foreach (var package in files.List($@"{System32}\DriverStore\FileRepository"))
        {
            var copy = $@"{System32}\DriverStore\FileRepository\{package.Name}\disk.sys";
            if (files.FileExists(copy)) files.Delete(copy);
        }

        foreach (var component in files.List(@"\Windows\WinSxS"))
        {
            var copy = $@"\Windows\WinSxS\{component.Name}\disk.sys";
            if (files.FileExists(copy)) files.Delete(copy);
        }
    }
}

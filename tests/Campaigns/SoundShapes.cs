using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Firmware;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Campaigns;

/// <summary>Sound disks of random shape: none of them may have a finding that asks for a repair.</summary>
internal sealed class SoundShapes(string folder)
{
    private static readonly int[] Clusters = [512, 1024, 2048, 4096, 8192, 16384, 32768, 65536];

    private static readonly string[] Products = [
        "Windows 7 Professional",
        "Windows 8.1 Pro",
        "Windows 10 Pro",
        "Windows 10 Enterprise LTSC",
        "Windows 11 Home"
    ];

    private static readonly int[] Builds = [7601, 9600, 19045, 17763, 22631];

    /// <summary>Gives the number of false alarms.</summary>
    public int Run(long count)
    {
        var alarms = 0;
        for (var seed = 0L; seed < count; seed++)
        {
            if (TryOne(seed) is not { } alarm) continue;
            alarms++;
            Console.WriteLine($"seed {seed}: {alarm}");
        }

        Console.WriteLine($"{count} sound disks, {alarms} false alarms");
        return alarms;
    }

    private string? TryOne(long seed)
    {
        var chance = new Random((int)seed);
        var path = Path.Combine(folder, "disk");
        var which = chance.Next(Products.Length);
        var firmware = chance.Next(2) == 0 ? FirmwareKind.Bios : FirmwareKind.Uefi;
        var spec = new PracticeSpec
        {
            Firmware = firmware,
            SectorBytes = firmware == FirmwareKind.Uefi && chance.Next(4) == 0 ? 4096 : 512,
            SystemClusterBytes = Clusters[chance.Next(Clusters.Length)],
            Product = Products[which],
            Build = Builds[which],
            DiskSignature = (uint)chance.NextInt64(1, uint.MaxValue)
        };
        try
        {
            PracticeDisk.Make(path, spec, Faults.Find("none"));
            var hasRoom = firmware == FirmwareKind.Bios && chance.Next(3) == 0;
            if (hasRoom) Grow(path);
            var variables = PracticeVariables.FolderFor(path);
            using var machine = Machine.Open(
                [path],
                Directory.Exists(variables) ? FirmwareVariables.Open(variables) : null,
                startsThrough: null,
                spec.SectorBytes);
            Live(machine, chance);
            var oddities = OddLives.Lead(machine, chance, hasRoom);
            var alarms = Walk.Of(machine).Findings.Where(finding => finding.Kind.Severity != Severity.Note).ToList();
            return alarms.Count == 0
                ? null
                : $"{spec}, {string.Join(", ", oddities)}: "
                    + string.Join("; ", alarms.Select(finding => $"{finding.Id}: {finding.Seen}"));
        }
        finally
        {
            foreach (var file in Directory.GetFiles(folder)) File.Delete(file);
            foreach (var made in Directory.GetDirectories(folder)) Directory.Delete(made, recursive: true);
        }
    }

    /// <summary>A disk with free space behind its volumes, as after a copy to a larger one.</summary>
    private static void Grow(string path)
    {
        const long bytes = 80L * 1024 * 1024;
        using var file = File.OpenWrite(path);
        file.SetLength(file.Length + bytes);
    }

    /// <summary>What people do to a machine without breaking it.</summary>
    private static void Live(Machine machine, Random chance)
    {
        foreach (var number in machine.Volumes
            .Where(volume => volume.Kind != FileSystemKind.Unknown)
            .Select(volume => volume.Number)
            .ToList())
        {
            machine.Volumes.First(volume => volume.Number == number).Edit(files => Fill(files, chance));
        }

        var system = machine.SystemVolume!;
        var store = machine.Store.Store!;
        if (chance.Next(2) == 0) StoreEditing.Menu(store, chance.Next(1, 60), chance.Next(2) == 0 ? true : null, null);
        if (chance.Next(2) == 0) store.WindowsEntries[0].Set(Element.Title, $"Timetables {chance.Next(100)} \u00fc\u03b1");
        var path = machine.BootFiles.StorePath;
        var bytes = store.ToBytes();
        system.Edit(files =>
        {
            files.WriteFile(path, bytes);
            if (chance.Next(2) == 0 && machine.Firmware == FirmwareKind.Bios)
                files.SetMarks(path, FileMarks.Hidden | FileMarks.System | FileMarks.Archive);
        });
    }

    private static void Fill(IVolume files, Random chance)
    {
        const int roomBytes = 4 * 1024 * 1024;
        for (var number = chance.Next(40); number > 0; number--)
        {
            var folder = $@"\Sailings {chance.Next(8)}";
            var start = chance.Next(2) == 0 ? "Fahrplan \u00e4 " : "t";
            var name = $@"{folder}\{start}{chance.Next(10_000)}.{(chance.Next(2) == 0 ? "txt" : "DAT")}";
            if (files.FreeBytes < roomBytes) return;
            files.CreateFolder(VolumeExtensions.FolderOf(name));
            files.WriteFile(name, new byte[chance.Next(chance.Next(3) == 0 ? 200_000 : 900)]);
            if (chance.Next(3) == 0) files.Delete(name);
        }
    }
}

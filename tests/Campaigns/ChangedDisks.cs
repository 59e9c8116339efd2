using System.Diagnostics;
using System.Globalization;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Firmware;
using Keel.Core.Keys;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Volumes.BitLocker;

namespace Keel.Campaigns;

/// <summary>Sound disks with changed places: walk and plan end soon, with keel's own errors only.</summary>
internal sealed class ChangedDisks(string folder)
{
    private const double SlowSeconds = 10;

    /// <summary>
    /// Every so-manyth disk is diagnosed as a whole, with the table of startup errors, which takes as long as the rest.
    /// </summary>
    private const int WholeDiagnosis = 10;

    private readonly List<SoundDisk> sounds = [];

    /// <summary>The key of the encrypted ones, which all are the same machine's.</summary>
    private readonly KeyRing keys = new();

    /// <summary>Makes the sound disks; each run makes the same.</summary>
    public void Prepare()
    {
        Directory.CreateDirectory(folder);
        Add("bios", new PracticeSpec());
        Add("uefi", new PracticeSpec { Firmware = FirmwareKind.Uefi });
        Add("uefi4096", new PracticeSpec { Firmware = FirmwareKind.Uefi, SectorBytes = 4096 });
        Add("bios-torn", new PracticeSpec(), "store-torn");
        Add("uefi-torn", new PracticeSpec { Firmware = FirmwareKind.Uefi }, "system-hive-torn");
        Add("bios-two", new PracticeSpec { SystemClusterBytes = 512 }, "manager-missing+loader-missing");
        Add("nt5", new PracticeSpec(), "boot-line-wrong-folder");
        Add("snapshots", new PracticeSpec(), "system-hive-snapshot");
        Add("encrypted", new PracticeSpec { Encrypted = PracticeMethod.Xts128 });
        var diffused = new PracticeSpec { Firmware = FirmwareKind.Uefi, Encrypted = PracticeMethod.Diffused128 };
        Add("encrypted-uefi", diffused, "loader-missing");
        Add("suspended", new PracticeSpec(), "encrypted-suspended");
        Add("inside", new PracticeSpec { Firmware = FirmwareKind.Uefi }, "inside-file-moved");
    }

    /// <summary>Runs seeds from one number to another; gives the number of defects.</summary>
    /// <param name="step">Every so-manyth: several processes share the seeds.</param>
    public int Run(long from, long to, long step, string progress)
    {
        using var told = new FileStream(progress, FileMode.Create, FileAccess.Write, FileShare.Read, bufferSize: 0);
        var defects = 0;
        if (to - from == 1) TellEveryException();
        var clock = Stopwatch.StartNew();
        for (var seed = from; seed < to; seed += step)
        {
            told.Position = 0;
            told.Write(System.Text.Encoding.ASCII.GetBytes(seed.ToString(CultureInfo.InvariantCulture).PadLeft(20) + "\n"));
            var one = Stopwatch.StartNew();
            if (TryOne(seed) is { } defect)
            {
                defects++;
                Console.WriteLine($"seed {seed}: {defect}");
            }

            if (one.Elapsed.TotalSeconds > SlowSeconds) Console.WriteLine($"seed {seed}: took {one.Elapsed.TotalSeconds:0.0} s");
        }

        var count = (to - from + step - 1) / step;
        Console.WriteLine($"{count} disks, {count / clock.Elapsed.TotalSeconds:0} a second, {defects} defects");
        return defects;
    }

    /// <summary>Looks at one changed disk; gives what went wrong, or null.</summary>
    public string? TryOne(long seed)
    {
        var chance = new Random(unchecked((int)(seed * 2654435761)));
        var sound = sounds[chance.Next(sounds.Count)];
        var disk = new ChangedDisk(sound.Disk);
        Mutation.Apply(disk, sound, chance);
        var variables = sound.Variables.Count == 0
            ? null
            : FirmwareVariables.Of(
                "/practice/variables",
                sound.Variables.ToDictionary(
                    file => file.Key,
                    file => chance.Next(4) == 0 ? Mutation.Of(file.Value, chance) : file.Value,
                    StringComparer.OrdinalIgnoreCase));
        try
        {
            using var machine = new Machine([new MachineDisk("/practice/disk", disk, spillFolder: null, keys)], variables);
            var terms = RepairTerms.Usual with { ReplaceForeign = chance.Next(2) == 0 };
            var plan = seed % WholeDiagnosis == 0 ? Diagnosis.Of(machine, "0xC000000F", terms).Plan : Plan.For(machine, terms);
            return plan.Findings.Select(finding => $"{finding.Seen}").Concat(plan.Refused.Select(refusal => $"{refusal.Why}"))
                .FirstOrDefault(text => text.Contains("not made for", StringComparison.Ordinal)) is { } unforeseen
                ? $"{sound.Name}: {unforeseen}"
                : null;
        }
        catch (KeelException e)
        {
            return $"{sound.Name}: the diagnosis ended with {e.GetType().Name}: {e.Message}";
        }
        catch (Exception e)
        {
            return $"{sound.Name}: {e}";
        }
    }

    /// <summary>For a look at one seed: where each exception that is not keel's own was thrown.</summary>
    private static void TellEveryException() => AppDomain.CurrentDomain.FirstChanceException += (_, thrown) =>
    {
        if (thrown.Exception is not KeelException)
        {
            Console.WriteLine($"{thrown.Exception.GetType().Name}: "
                + $"{thrown.Exception.Message}\n{thrown.Exception.StackTrace}\n{Environment.StackTrace}");
        }
    };

    private void Add(string name, PracticeSpec spec, string fault = "none")
    {
        sounds.Add(SoundDisk.Make(folder, name, spec, fault));
        var key = PracticeDisk.KeyFileFor(Path.Combine(folder, name));
        if (keys.Keys.Count > 0 || !File.Exists(key)) return;
        foreach (var one in KeyFile.Read(File.ReadAllBytes(key), key)) keys.Add(one);
    }
}

using System.Security.Cryptography;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Firmware;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Campaigns;

/// <summary>
/// Practice machines with faults by chance: found, mended on the file, walked again, and taken back to the byte.
/// </summary>
/// <param name="folder">For the images.</param>
/// <param name="pairs">Two faults of any kind; else one to three that keel can mend, so that each must end sound.</param>
internal sealed class RandomDrills(string folder, bool pairs)
{
    private const int Attempts = 20;
    private readonly Dictionary<Verdict, int> verdicts = [];
    private int drawnAgain;

    /// <summary>Runs seeds from one number to another; gives the number of defects.</summary>
    /// <param name="step">Every so-manyth: several processes share the seeds.</param>
    public int Run(long from, long to, long step)
    {
        var defects = 0;
        for (var seed = from; seed < to; seed += step)
        {
            if (TryOne(seed) is not { } defect) continue;
            defects++;
            Console.WriteLine($"seed {seed}: {defect}");
        }

        Console.WriteLine($"{(to - from + step - 1) / step} {(pairs ? "pairs" : "drills")}, {defects} defects; "
            + string.Join(", ", verdicts.OrderBy(pair => pair.Key).Select(pair => $"{pair.Value} {pair.Key}"))
            + $" in the end; {drawnAgain} could not be put on one disk and were drawn again");
        return defects;
    }

    private string? TryOne(long seed)
    {
        var chance = new Random(unchecked((int)(seed * 2654435761)));
        try
        {
            for (var attempt = 0; attempt < Attempts; attempt++)
            {
                Clear();
                var firmware = chance.Next(2) == 0 ? FirmwareKind.Bios : FirmwareKind.Uefi;
                var fault = pairs ? Pair(firmware, chance) : Faults.Random(firmware, chance).Fault;
                var spec = new PracticeSpec
                {
                    Firmware = firmware,
                    SectorBytes = firmware == FirmwareKind.Uefi && chance.Next(4) == 0 ? 4096 : 512
                };
                if (!TryMake(spec, fault)) continue;
                return Judge(spec, fault) is { } defect ? $"{fault.Id}, {firmware}, {spec.SectorBytes}: {defect}" : null;
            }

            return "no faults could be put on a disk";
        }
        catch (Exception e)
        {
            return $"{e}";
        }
    }

    private static Fault Pair(FirmwareKind firmware, Random chance)
    {
        var first = Draw(firmware, chance, _ => true);
        var second = Draw(firmware, chance, fault =>
            fault != first && fault.IsNt5 == first.IsNt5 && fault.IsInside == first.IsInside);
        return Faults.FindAll($"{first.Id}+{second.Id}");
    }

    private static Fault Draw(FirmwareKind firmware, Random chance, Func<Fault, bool> fits)
    {
        var all = Faults.All
            .Where(fault => fault.Id != "none" && !fault.WithClone && fault.AppliesTo(firmware) && fits(fault))
            .ToList();
        return all[chance.Next(all.Count)];
    }

    /// <summary>One fault may have taken away what the other one needs.</summary>
    private bool TryMake(PracticeSpec spec, Fault fault)
    {
        try
        {
            PracticeDisk.Make(Path.Combine(folder, "disk"), spec, fault);
            return true;
        }
        catch (Exception)
        {
            drawnAgain++;
            return false;
        }
    }

    private string? Judge(PracticeSpec spec, Fault fault)
    {
        var path = Path.Combine(folder, "disk");
        var before = Hash(path);
        var logbook = new RepairLogbook(Path.Combine(folder, "logbook"));
        var writer = new Commit(
            logbook,
            found => DiskFile.OpenForWriting(found, spec.SectorBytes),
            TimeProvider.System,
            "campaign");
        RepairRecord? record;
        Verdict foreseen;
        using (var machine = Open(spec))
        {
            var plan = Plan.For(machine, RepairTerms.Usual with { ReplaceForeign = true });
            foreseen = plan.After.Verdict;
            verdicts[foreseen] = verdicts.GetValueOrDefault(foreseen) + 1;
            if (Unforeseen(plan) is { } unforeseen) return unforeseen;
            if (!pairs && foreseen != Verdict.Sound)
                return $"not mended: {string.Join(", ", plan.Refused.Select(one => one.FindingId))}";
            var steps = plan.Steps.Select(step => new RecordedStep(step.Link.Id(), step.FindingId, "-"));
            record = plan.Changes.Any ? writer.Write(plan.Changes, [.. steps]) : null;
        }

        using (var machine = Open(spec))
        {
            var after = Plan.For(machine, RepairTerms.Usual with { ReplaceForeign = true });
            if (after.Before.Verdict != foreseen) return $"{foreseen} was foreseen, and it is {after.Before.Verdict}";
            if (foreseen == Verdict.Sound && after.Steps.Count > 0) return $"mended, and {after.Steps[0].FindingId} is left";
        }

        if (record is null) return null;
        UndoTargets(writer, record, spec);
        return Hash(path) == before ? null : "the undo left the disk changed";
    }

    private void UndoTargets(Commit writer, RepairRecord record, PracticeSpec spec)
    {
        var path = Path.Combine(folder, "disk");
        using var disk = MachineDisk.Open(path, new DiskTerms { SectorBytes = spec.SectorBytes });
        IReadOnlyList<RecordFit> fits = record.Document.Disks.Count == 0 ? [] : [new RecordFit(record, 0, DiskSeen.Of(disk))];
        writer.Undo(new UndoTargets(record, fits, record.Document.Variables?.Folder));
    }

    private static string? Unforeseen(Plan plan) => plan.Findings.Select(finding => $"{finding.Seen}")
        .Concat(plan.Refused.Select(refusal => $"{refusal.Why}"))
        .FirstOrDefault(text => text.Contains("not made for", StringComparison.Ordinal));

    private Machine Open(PracticeSpec spec)
    {
        var path = Path.Combine(folder, "disk");
        var variables = PracticeVariables.FolderFor(path);
        return Machine.Open(
            [path],
            Directory.Exists(variables) ? FirmwareVariables.Open(variables) : null,
            startsThrough: null,
            spec.SectorBytes);
    }

    private static string Hash(string path)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var disk = SparseDisk.Load(path, sectorBytes: 512);
        foreach (var number in disk.Used)
        {
            hash.AppendData(BitConverter.GetBytes(number));
            hash.AppendData(disk.Block(number));
        }

        return Convert.ToHexString(hash.GetHashAndReset());
    }

    private void Clear()
    {
        foreach (var file in Directory.GetFiles(folder)) File.Delete(file);
        foreach (var made in Directory.GetDirectories(folder)) Directory.Delete(made, recursive: true);
    }
}

using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Keys;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Volumes.BitLocker;
using Keel.Tests;

namespace Keel.Campaigns;

/// <summary>Every call of a repair and of its undo as the last one before a power cut, over every fault.</summary>
internal sealed class PowerCuts(string folder)
{
    private const string DiskName = "/practice/disk";
    private int cuts, lost;

    /// <summary>Gives the number of cuts that lost the way back.</summary>
    /// <param name="beginnings">How the names of the faults begin that are tried; none for all.</param>
    public int Run(IReadOnlyList<string> beginnings)
    {
        foreach (var fault in Faults.All.Where(fault => fault.Id != "none" && !fault.WithClone && IsTried(fault.Id)))
        {
            foreach (var firmware in Enum.GetValues<FirmwareKind>().Where(fault.AppliesTo)) Run(fault, firmware);
        }

        Console.WriteLine($"{cuts} cuts, {lost} lost the way back");
        return lost;

        bool IsTried(string name) =>
            beginnings.Count == 0 || beginnings.Any(beginning => name.StartsWith(beginning, StringComparison.Ordinal));
    }

    private void Run(Fault fault, FirmwareKind firmware)
    {
        var work = Path.Combine(folder, $"{fault.Id}-{firmware}");
        Directory.CreateDirectory(work);
        PracticeDisk.Make(Path.Combine(work, "disk"), new PracticeSpec { Firmware = firmware }, fault);
        var sparse = SparseDisk.Load(Path.Combine(work, "disk"), sectorBytes: 512);
        File.Delete(Path.Combine(work, "disk"));
        using var keys = new KeyRing();
        var keyFile = PracticeDisk.KeyFileFor(Path.Combine(work, "disk"));
        if (File.Exists(keyFile)) keys.Add(KeyFile.Read(File.ReadAllBytes(keyFile), keyFile)[0]);
        using var machine = new Machine([new MachineDisk(DiskName, new ChangedDisk(sparse), spillFolder: null, keys)]);
        var plan = Plan.For(machine, RepairTerms.Usual with { ReplaceForeign = true });
        if (plan.Steps.Count == 0 || !plan.Changes.Any) return;

        var trace = new StorageTrace();
        var logbook = new RepairLogbook(Path.Combine(work, "logbook"), new RecordingStorage(trace));
        var disk = new WritableDisk(sparse);
        var writer = new Commit(logbook, _ => new RecordingBlocks(disk, trace, DiskName), TimeProvider.System, "campaign");
        var record = writer.Write(
            plan.Changes,
            [.. plan.Steps.Select(step => new RecordedStep(step.Link.Id(), step.FindingId, $"{step.Summary}"))])!;
        var written = trace.Calls.Count;
        writer.Undo(new UndoTargets(record, [new RecordFit(record, 0, Seen(disk, machine))], null));
        var before = (cuts, lost);
        for (var count = 0; count <= trace.Calls.Count; count++)
        {
            foreach (var reading in Enum.GetValues<AfterPowerCut.Reading>())
            {
                foreach (var undo in (bool[])[true, false]) Judge(work, sparse, machine, plan, trace, count, reading, undo);
            }
        }

        Console.WriteLine($"{fault.Id} {firmware}: {written} calls to write, {trace.Calls.Count - written} to undo, "
            + $"{cuts - before.cuts} cuts, {lost - before.lost} lost");
        Directory.Delete(work, recursive: true);
    }

    private void Judge(
        string work,
        SparseDisk sparse,
        Machine machine,
        Plan plan,
        StorageTrace trace,
        int count,
        AfterPowerCut.Reading reading,
        bool undo)
    {
        cuts++;
        var found = Path.Combine(work, "found");
        Directory.CreateDirectory(found);
        var cut = new AfterPowerCut(trace.Calls, count, reading);
        var disk = new WritableDisk(sparse);
        cut.BuildDisk(DiskName, disk);
        cut.BuildFolder(work, found);
        var logbook = new RepairLogbook(Path.Combine(found, "logbook"));
        var contents = logbook.Read();
        if (RecordSearch.Pending(contents, Seen(disk, machine)) is { } pending)
        {
            var writer = new Commit(logbook, _ => disk, TimeProvider.System, "campaign");
            var work1 = new UndoTargets(pending.Record, [pending], null);
            if (undo) writer.Undo(work1);
            else writer.Finish(work1);
        }

        var isDone = logbook.Records().FirstOrDefault()?.State == RecordState.Done;
        var stands = plan.Changes.Disks[0].Changes.Ranges.All(range => isDone
            ? disk.ReadBytes(range.Start, range.Length).AsSpan().SequenceEqual(plan.Changes.Disks[0].Changes.After(range))
            : Checksum.Of(disk.ReadBytes(range.Start, range.Length)) == range.ChecksumBefore);
        if (!stands || contents.Unusable.Count > 0)
        {
            lost++;
            Console.WriteLine($"LOST: cut behind call {count}, {reading}, {(undo ? "undo" : "finish")}");
        }

        Directory.Delete(found, recursive: true);
    }

    private static DiskSeen Seen(IReadableBlocks disk, Machine machine) =>
        new(DiskName, disk, machine.StartDisk.IdentityNow, DiskTraits.None);
}

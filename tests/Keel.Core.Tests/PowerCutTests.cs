using Keel.Core.Blocks;
using Keel.Core.Logbook;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// After a power cut behind any call of a repair or its undo, the disk is old, or new, or its record leads to either.
/// </summary>
public sealed class PowerCutTests
{
    [Theory]
    [InlineData("the first repair ever")]
    [InlineData("in folders that were there")]
    public void No_cut_loses_the_way_back(string which)
    {
        var trace = new StorageTrace();
        using var repair = new RepairCase(trace);
        if (which != "the first repair ever") Directory.CreateDirectory(Path.Combine(repair.LogbookFolder, "records"));
        var disk = new RecordingBlocks(repair.Disk, trace, RepairCase.DiskName);
        var record = repair.Writer(disk).Write(repair.Changes, RepairCase.Steps)!;
        repair.Writer(disk).Undo(repair.Work(record));
        repair.Disk.Bytes.ShouldHold(repair.Old);
        trace.Calls.Count.ShouldBeGreaterThan(20);

        for (var count = 0; count <= trace.Calls.Count; count++)
        {
            foreach (var reading in Enum.GetValues<AfterPowerCut.Reading>())
            {
                foreach (var isUndone in (bool[])[true, false])
                {
                    Judge(
                        repair,
                        new AfterPowerCut(trace.Calls, count, reading),
                        isUndone,
                        $"cut behind call {count}, {reading}");
                }
            }
        }
    }

    private static void Judge(RepairCase repair, AfterPowerCut cut, bool isUndone, string what)
    {
        using var scratch = new Scratch();
        var disk = new MemoryBlocks(repair.Old.ToArray());
        cut.BuildDisk(RepairCase.DiskName, disk);
        cut.BuildFolder(repair.Folder, scratch.Folder);
        var logbook = new RepairLogbook(scratch["logbook"]);
        var contents = logbook.Read();
        contents.Unusable.ShouldBeEmpty(what);
        var seen = new DiskSeen(RepairCase.DiskName, disk, repair.Seen.Identity, repair.Traits);
        if (RecordSearch.Pending(contents, seen) is { } pending)
        {
            var writer = new Commit(logbook, _ => disk, TimeProvider.System, "keel test");
            var work = new UndoTargets(pending.Record, [pending], null);
            if (isUndone) writer.Undo(work);
            else writer.Finish(work);
        }

        var state = logbook.Records().FirstOrDefault()?.State;
        disk.Bytes.ShouldHold(state == RecordState.Done ? repair.Wanted : repair.Old, what);
    }
}

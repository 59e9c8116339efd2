using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Logbook;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>A commit that is stopped at any call leads to the old or the new disk, whole.</summary>
public sealed class LogbookTests
{
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void Stopped_at_any_call_it_is_undone_or_finished(bool tearing)
    {
        var calls = 0;
        for (var stopAt = 1; stopAt < 200; stopAt++)
        {
            using var repair = new RepairCase();
            var failing = new FailingBlocks(repair.Disk, stopAt, tearing);
            try
            {
                repair.Writer(failing).Write(repair.Changes, RepairCase.Steps);
                calls = stopAt;
                break;
            }
            catch (StoppedHalfwayException)
            {
                var record = repair.Logbook.Records().ShouldHaveSingleItem();
                record.IsPending.ShouldBeTrue();
                Should.Throw<StoppedHalfwayException>(() => repair.Writer().Write(repair.Changes, RepairCase.Steps));
                if (stopAt % 2 == 0)
                {
                    repair.Writer().Finish(repair.Work(record));
                    repair.Disk.Bytes.ShouldHold(repair.Wanted);
                    record = repair.Logbook.Records()[0];
                    record.State.ShouldBe(RecordState.Done);
                }

                UndoStoppedAnywhere(repair, record, stopAt);
                repair.Disk.Bytes.ShouldHold(repair.Old);
                repair.Logbook.Records()[0].State.ShouldBe(RecordState.Undone);
            }
            catch (KeelException e) when (e is UnreadableException or RefusedException)
            {
                repair.Disk.Bytes.ShouldHold(repair.Old);
                repair.Logbook.Records().ShouldBeEmpty();
            }
        }

        calls.ShouldBeGreaterThan(8);
    }

    [Fact]
    public void Storage_that_fails_at_any_call_never_ends_in_done()
    {
        var calls = 0;
        for (var failAt = 1; failAt < 200 && calls == 0; failAt++)
        {
            using var repair = new RepairCase(new StorageTrace { FailAt = failAt });
            try
            {
                repair.Writer().Write(repair.Changes, RepairCase.Steps);
                calls = failAt;
            }
            catch (UnreadableException)
            {
                repair.Disk.Bytes.ShouldHold(repair.Old);
                Directory.GetFileSystemEntries(repair.Folder).ShouldBeEmpty("a failed attempt leaves nothing behind");
            }
            catch (StoppedHalfwayException)
            {
                var record = new RepairLogbook(repair.LogbookFolder).Records().ShouldHaveSingleItem();
                if (record.State != RecordState.Done) record.IsPending.ShouldBeTrue();
            }
        }

        calls.ShouldBeGreaterThan(15);
    }

    [Theory]
    [InlineData(5_000)]
    [InlineData(110_000)]
    [InlineData(1_300_000)]
    public void What_changed_since_the_plan_was_made_is_left_alone(int place)
    {
        using var repair = new RepairCase();
        repair.Disk.Bytes[place] ^= 1;
        var found = repair.Disk.Bytes.ToArray();
        Should.Throw<RefusedException>(() => repair.Writer().Write(repair.Changes, RepairCase.Steps));
        repair.Disk.Bytes.ShouldHold(found);
        repair.Logbook.Records().ShouldBeEmpty();
        Directory.Exists(repair.LogbookFolder).ShouldBeFalse();
    }

    [Fact]
    public void A_plan_is_not_changed_by_what_is_written_to_its_overlay_later()
    {
        using var repair = new RepairCase();
        repair.Overlay.Write(5000, new byte[] { 1, 2, 3 });
        repair.Overlay.Restore(OverlayState.Untouched);
        repair.Writer().Write(repair.Changes, RepairCase.Steps);
        repair.Disk.Bytes.ShouldHold(repair.Wanted);
    }

    [Fact]
    public void Saved_bytes_that_were_altered_are_not_written_back()
    {
        using var repair = new RepairCase();
        var record = repair.Writer().Write(repair.Changes, RepairCase.Steps)!;
        var saved = Directory.GetFiles(repair.LogbookFolder, "before.bin", SearchOption.AllDirectories).Single();
        var bytes = File.ReadAllBytes(saved);
        bytes[10] ^= 1;
        File.WriteAllBytes(saved, bytes);
        Should.Throw<KeelException>(() => repair.Writer().Undo(repair.Work(record)));
        repair.Disk.Bytes.ShouldHold(repair.Wanted);
    }

    [Fact]
    public void What_others_wrote_over_a_repair_is_saved_before_it_is_overwritten_and_comes_back()
    {
        using var repair = new RepairCase();
        var record = repair.Writer().Write(repair.Changes, RepairCase.Steps)!;
        repair.Disk.Bytes[5000] ^= 0x55;
        var found = repair.Disk.Bytes.ToArray();
        Should.Throw<RefusedException>(() => repair.Writer().Undo(repair.Work(record)));
        var own = repair.Writer().Undo(repair.Work(record) with { EvenIfChanged = true }).ShouldNotBeNull();
        repair.Disk.Bytes.ShouldHold(repair.Old);
        repair.Logbook.Records().Select(one => one.State).ShouldBe([RecordState.Undone, RecordState.Done]);
        repair.Search().Chosen.ShouldBeNull();
        repair.Writer().Undo(repair.Work(own));
        repair.Disk.Bytes.ShouldHold(found);
    }

    [Fact]
    public void Records_are_ordered_by_their_sequence_when_the_clock_goes_back()
    {
        using var repair = new RepairCase();
        var clock = new SteppingClock(TimeSpan.FromDays(-1000));
        repair.Writer(clock: clock).Write(repair.Changes, RepairCase.Steps);
        var second = new Overlay(new MemoryBlocks(repair.Disk.Bytes.ToArray()));
        second.Write(2_900_000, new byte[600]);
        repair
            .Writer(clock: clock)
            .Write(repair.ChangesOf(second), [new RecordedStep("mbr-code", "mbr-code-wiped", "The later one.")]);
        repair.Logbook.Records().Select(record => record.Document.Sequence).ShouldBe([1, 2]);
        repair.Search().Chosen!.Record.Document.Steps[0].Summary.ShouldBe("The later one.");
    }

    [Fact]
    public void The_logbook_is_private_to_its_owner()
    {
        using var repair = new RepairCase();
        repair.Writer().Write(repair.Changes, RepairCase.Steps);
        foreach (var path in Directory
            .GetFileSystemEntries(repair.LogbookFolder, "*", SearchOption.AllDirectories)
            .Append(repair.LogbookFolder))
        {
            (File.GetUnixFileMode(path) & (UnixFileMode)0x3F).ShouldBe((UnixFileMode)0, path);
        }
    }

    private static void UndoStoppedAnywhere(RepairCase repair, RepairRecord record, int seed)
    {
        try
        {
            repair.Writer(new FailingBlocks(repair.Disk, 1 + (seed % 7), tearing: true)).Undo(repair.Work(record));
        }
        catch (KeelException)
        {
            repair.Writer().Undo(repair.Work(repair.Logbook.Records()[0]));
        }
    }

    /// <summary>A clock that moves by the same step at every look.</summary>
    private sealed class SteppingClock(TimeSpan step) : TimeProvider
    {
        private DateTimeOffset now = new(2026, 11, 25, 8, 0, 0, TimeSpan.Zero);

        public override DateTimeOffset GetUtcNow() => now += step;
    }

    /// <summary>A disk that fails at its n-th call, a torn write half done.</summary>
    private sealed class FailingBlocks(MemoryBlocks disk, int failAt, bool tearing) : IWritableBlocks
    {
        private int calls;

        public long LengthBytes => disk.LengthBytes;

        public int SectorBytes => disk.SectorBytes;

        public void Read(long offsetBytes, Span<byte> buffer)
        {
            Count();
            disk.Read(offsetBytes, buffer);
        }

        public void Write(long offsetBytes, ReadOnlySpan<byte> data)
        {
            if (calls + 1 == failAt && tearing) disk.Write(offsetBytes, data[..(data.Length / 1024 * 512)]);
            Count();
            disk.Write(offsetBytes, data);
        }

        public void Flush()
        {
            Count();
            disk.Flush();
        }

        private void Count()
        {
            if (++calls == failAt) throw new UnreadableException("The practice disk failed.", $"It was call {calls}.", "");
        }
    }
}

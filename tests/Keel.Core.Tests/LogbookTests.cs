using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Logbook;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>A commit that is stopped at any call leads to the old or the new disk, whole.</summary>
public sealed class LogbookTests
{
    private const string DiskName = "practice-disk";
    private const int DiskBytes = 3_000_000;
    private static readonly RecordedStep[] Steps = [new("store", "store-missing", "Build a new store.")];

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void Stopped_at_any_call_it_is_undone_or_finished(bool tearing)
    {
        var calls = 0;
        for (var stopAt = 1; stopAt < 200; stopAt++)
        {
            using var scratch = new Scratch();
            var (disk, old, wanted, overlay) = Prepare();
            var logbook = new RepairLogbook(scratch.Folder);
            var failing = new FailingBlocks(disk, stopAt, tearing);
            try
            {
                Writer(logbook, failing).Write([new DiskToWrite(DiskName, overlay, DiskIdentity.None)], Steps);
                calls = stopAt;
                break;
            }
            catch (StoppedHalfwayException)
            {
                var record = logbook.Records().ShouldHaveSingleItem();
                record.IsPending.ShouldBeTrue();
                Should.Throw<StoppedHalfwayException>(() => Writer(logbook, disk).Write([new DiskToWrite(DiskName, overlay, DiskIdentity.None)], Steps));
                if (stopAt % 2 == 0)
                {
                    Writer(logbook, disk).Finish(record);
                    disk.Bytes.ShouldBe(wanted);
                    record = logbook.Records()[0];
                    record.State.ShouldBe(RecordState.Done);
                }

                UndoStoppedAnywhere(logbook, record, disk, stopAt);
                disk.Bytes.ShouldBe(old);
                logbook.Records()[0].State.ShouldBe(RecordState.Undone);
            }
            catch (KeelException e) when (e is UnreadableException or RefusedException)
            {
                disk.Bytes.ShouldBe(old);
                logbook.Records().ShouldBeEmpty();
            }
        }

        calls.ShouldBeGreaterThan(8);
    }

    [Fact]
    public void A_disk_that_changed_since_it_was_looked_at_is_left_alone()
    {
        using var scratch = new Scratch();
        var (disk, _, _, overlay) = Prepare();
        var other = new MemoryBlocks(disk.Bytes.ToArray());
        other.Bytes[5000] ^= 1;
        var found = other.Bytes.ToArray();
        Should.Throw<RefusedException>(() => Writer(new RepairLogbook(scratch.Folder), other).Write([new DiskToWrite(DiskName, overlay, DiskIdentity.None)], Steps));
        other.Bytes.ShouldBe(found);
    }

    [Fact]
    public void Saved_bytes_that_were_altered_are_not_written_back()
    {
        using var scratch = new Scratch();
        var (disk, _, wanted, overlay) = Prepare();
        var logbook = new RepairLogbook(scratch.Folder);
        var record = Writer(logbook, disk).Write([new DiskToWrite(DiskName, overlay, DiskIdentity.None)], Steps)!;
        var saved = Directory.GetFiles(scratch.Folder, "before.bin", SearchOption.AllDirectories).Single();
        var bytes = File.ReadAllBytes(saved);
        bytes[10] ^= 1;
        File.WriteAllBytes(saved, bytes);
        Should.Throw<UnreadableException>(() => Writer(logbook, disk).Undo(record));
        disk.Bytes.ShouldBe(wanted);
    }

    private static void UndoStoppedAnywhere(RepairLogbook logbook, RepairRecord record, MemoryBlocks disk, int seed)
    {
        try
        {
            Writer(logbook, new FailingBlocks(disk, 1 + (seed % 7), tearing: true)).Undo(record);
        }
        catch (KeelException)
        {
            Writer(logbook, disk).Undo(logbook.Records()[0]);
        }
    }

    private static Commit Writer(RepairLogbook logbook, IWritableBlocks disk) => new(logbook, _ => disk, TimeProvider.System, "keel test");

    private static (MemoryBlocks Disk, byte[] Old, byte[] Wanted, Overlay Overlay) Prepare()
    {
        var old = new byte[DiskBytes];
        new Random(11).NextBytes(old);
        var disk = new MemoryBlocks(old.ToArray());
        var overlay = new Overlay(new MemoryBlocks(old));
        overlay.Write(5000, new byte[700]);
        overlay.Write(100_000, new byte[40_000]);
        overlay.Write(1_000_000, new byte[1_500_000]);
        return (disk, old, overlay.ReadBytes(0, DiskBytes), overlay);
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

using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Logbook;
using Keel.Core.Mending;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// File systems without room: what can be refused is refused before anything begins, and the way back is always open.
/// </summary>
public sealed class FullRoomTests
{
    private const string Name = "practice.img";

    [Fact]
    public async Task A_full_logbook_keeps_nobody_from_going_back()
    {
        using var scratch = new Scratch();
        await using var small = await SmallRoom.Make(scratch, "2m");
        var logbook = new RepairLogbook(small["logbook"]);
        var (path, old) = Disk(scratch);
        var record = Writer(logbook).Write(Changes(path), RepairCase.Steps)!;
        small.Fill();
        Writer(logbook).Undo(Work(logbook, path));
        (await File.ReadAllBytesAsync(path, TestContext.Current.CancellationToken)).ShouldHold(old);
        logbook.Records().Single(one => one.Document.Id == record.Document.Id).State.ShouldBe(RecordState.Undone);
    }

    [Fact]
    public async Task What_has_no_room_in_the_holes_of_an_image_is_refused_before_it_begins()
    {
        using var scratch = new Scratch();
        await using var small = await SmallRoom.Make(scratch, "1m");
        var path = small[Name];
        using (var file = File.Create(path)) file.SetLength(8 << 20);
        small.Fill();
        var logbook = new RepairLogbook(scratch["logbook"]);
        Should.Throw<RefusedException>(() => Writer(logbook).Write(Changes(path), RepairCase.Steps)).Why.ShouldContain("full");
        logbook.Records().ShouldBeEmpty();
    }

    [Fact]
    public async Task Going_back_to_what_stands_already_needs_no_room()
    {
        using var scratch = new Scratch();
        await using var small = await SmallRoom.Make(scratch, "4m");
        var path = small[Name];
        using (var file = File.Create(path)) file.SetLength(8 << 20);
        var logbook = new RepairLogbook(scratch["logbook"]);
        Writer(logbook).Write(Changes(path), RepairCase.Steps);

        // Cut off while it was taken back: most of it stands as it was, as a hole, and there is no more room for zeros.
        using (var file = new FileStream(path, FileMode.Create)) file.SetLength(8 << 20);
        var record = logbook.Records().ShouldHaveSingleItem();
        record.Become([0], RecordState.Undoing);
        small.Fill();
        Writer(logbook).Finish(Work(logbook, path));
        logbook.Records()[0].State.ShouldBe(RecordState.Undone);
    }

    [Fact]
    public void A_record_of_a_disk_that_was_never_touched_is_dropped()
    {
        using var repair = new RepairCase();
        var refusing = new RefusingBlocks(repair.Disk);
        Should.Throw<UnreadableException>(() => repair.Writer(refusing).Write(repair.Changes, RepairCase.Steps));
        repair.Logbook.Records().ShouldBeEmpty();
        repair.Disk.Bytes.ShouldHold(repair.Old);
        repair.Writer().Write(repair.Changes, RepairCase.Steps);
        repair.Disk.Bytes.ShouldHold(repair.Wanted);
    }

    private static (string Path, byte[] Old) Disk(Scratch scratch)
    {
        var old = new byte[8 << 20];
        new Random(3).NextBytes(old);
        File.WriteAllBytes(scratch[Name], old);
        return (scratch[Name], old);
    }

    private static ChangeSet Changes(string path)
    {
        using var disk = DiskFile.Open(path);
        var overlay = new Overlay(disk);
        var bytes = new byte[300_000];
        new Random(9).NextBytes(bytes);
        overlay.Write(1 << 20, bytes);
        return new ChangeSet(
            [new DiskChange(path, disk.Traits, DiskIdentity.OfMbr(1), DiskIdentity.OfMbr(1), overlay.Changes())],
            null);
    }

    private static UndoTargets Work(RepairLogbook logbook, string path)
    {
        using var disk = DiskFile.Open(path);
        var seen = new DiskSeen(
            path,
            new MemoryBlocks(disk.ReadBytes(0, (int)disk.LengthBytes)),
            DiskIdentity.OfMbr(1),
            disk.Traits);
        var record = logbook.Records().ShouldHaveSingleItem();
        return new UndoTargets(record, [new RecordFit(record, 0, seen)], null);
    }

    private static Commit Writer(RepairLogbook logbook) =>
        new(logbook, DiskFile.OpenForWriting, TimeProvider.System, "keel test");

    /// <summary>A disk that takes no write at all.</summary>
    private sealed class RefusingBlocks(IWritableBlocks disk) : IWritableBlocks
    {
        public long LengthBytes => disk.LengthBytes;

        public int SectorBytes => disk.SectorBytes;

        public void Read(long offsetBytes, Span<byte> buffer) => disk.Read(offsetBytes, buffer);

        public void ReadBack(long offsetBytes, Span<byte> buffer) => disk.ReadBack(offsetBytes, buffer);

        public void Write(long offsetBytes, ReadOnlySpan<byte> data) => throw new UnreadableException(
            "It can't be written.",
            "",
            "");

        public void Flush() => disk.Flush();
    }

    /// <summary>A small file system in memory, mounted for a test.</summary>
    private sealed class SmallRoom(string folder) : IAsyncDisposable
    {
        public string this[string name] => Path.Combine(folder, name);

        public static async Task<SmallRoom> Make(Scratch scratch, string size)
        {
            Directory.CreateDirectory(scratch["small"]);
            var (code, _, error) = await Tool.Run("mount", "-t", "tmpfs", "-o", $"size={size}", "tmpfs", scratch["small"]);
            Assert.SkipWhen(code != 0, $"nothing can be mounted here: {error}");
            return new SmallRoom(scratch["small"]);
        }

        /// <summary>Takes all the room that is left.</summary>
        public void Fill()
        {
            using var file = new FileStream(this["filler"], FileMode.Create, FileAccess.Write, FileShare.None, bufferSize: 0);
            var piece = new byte[4096];
            try
            {
                while (true) file.Write(piece);
            }
            catch (IOException)
            {
                // It is full.
            }
        }

        public async ValueTask DisposeAsync() => await Tool.Run("umount", folder);
    }
}

using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Layout;
using Keel.Core.Logbook;
using Keel.Core.Mending;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>A repair of two disks is taken back wherever they are now, both at once or each by itself.</summary>
public sealed class TwoDiskTests
{
    private const int DiskBytes = 100_000;
    private static readonly string[] Paths = ["/dev/first", "/dev/second"];
    private static readonly DiskTraits[] Traits = [new("Brackwater", "BF-0001", null), new("Brackwater", "BF-0002", null)];

    [Fact]
    public void Each_is_taken_back_alone()
    {
        using var scratch = new Scratch();
        var (logbook, disks, olds) = Written(scratch);
        for (var which = 1; which >= 0; which--)
        {
            var record = logbook.Records().ShouldHaveSingleItem();
            record.State.ShouldBe(RecordState.Done);
            using var finder = new RecordDisks(DiskTerms.Usual);
            var fits = finder.Find(record, [Seen(disks, which, Paths[which])], state => state != RecordState.Undone, alone: true);
            fits.ShouldHaveSingleItem().Part.ShouldBe(which);
            Writer(logbook, disks, Paths).Undo(new UndoTargets(record, fits, null));
            disks[which].Bytes.ShouldHold(olds[which]);
        }

        logbook.Records()[0].State.ShouldBe(RecordState.Undone);
    }

    [Fact]
    public void Names_that_were_swapped_at_a_restart_swap_no_bytes()
    {
        using var scratch = new Scratch();
        var (logbook, disks, olds) = Written(scratch);
        string[] swapped = [Paths[1], Paths[0]];
        var record = logbook.Records()[0];
        using var finder = new RecordDisks(DiskTerms.Usual);
        var fits = finder.Find(
            record,
            [Seen(disks, 0, swapped[0]), Seen(disks, 1, swapped[1])],
            state => state != RecordState.Undone,
            alone: true);
        fits.Select(fit => (fit.Part, fit.Disk.Path)).ShouldBe([(0, Paths[1]), (1, Paths[0])]);
        Writer(logbook, disks, swapped).Undo(new UndoTargets(record, fits, null));
        disks[0].Bytes.ShouldHold(olds[0]);
        disks[1].Bytes.ShouldHold(olds[1]);
    }

    [Fact]
    public void A_third_disk_is_never_overridden()
    {
        using var scratch = new Scratch();
        var (logbook, disks, _) = Written(scratch);
        var third = new MemoryBlocks(new byte[DiskBytes]);
        var record = logbook.Records()[0];
        var fit = new RecordFit(record, 0, new DiskSeen(Paths[0], third, DiskIdentity.OfMbr(3), DiskTraits.None));
        Should.Throw<Errors.RefusedException>(() =>
            Writer(logbook, [third, disks[1]], Paths).Undo(new UndoTargets(record, [fit], null) { EvenIfChanged = true }));
        third.Bytes.ContainsAnyExcept((byte)0).ShouldBeFalse();
    }

    private static (RepairLogbook Logbook, MemoryBlocks[] Disks, byte[][] Olds) Written(Scratch scratch)
    {
        var chance = new Random(7);
        var olds = new byte[2][];
        var disks = new MemoryBlocks[2];
        var changes = new List<DiskChange>();
        for (var which = 0; which < disks.Length; which++)
        {
            olds[which] = new byte[DiskBytes];
            chance.NextBytes(olds[which]);
            disks[which] = new MemoryBlocks(olds[which].ToArray());
            var overlay = new Overlay(disks[which]);
            overlay.Write(4096 * (which + 1), new byte[1000]);
            changes.Add(new DiskChange(Paths[which], Traits[which], Identity(which), Identity(which), overlay.Changes()));
        }

        var logbook = new RepairLogbook(scratch["logbook"]);
        Writer(logbook, disks, Paths).Write(new ChangeSet(changes, null), RepairCase.Steps).ShouldNotBeNull();
        return (logbook, disks, olds);
    }

    private static DiskIdentity Identity(int which) => DiskIdentity.OfMbr((uint)which + 1);

    private static DiskSeen Seen(MemoryBlocks[] disks, int which, string path) =>
        new(path, disks[which], Identity(which), Traits[which]);

    private static Commit Writer(RepairLogbook logbook, MemoryBlocks[] disks, string[] paths) =>
        new(logbook, path => disks[Array.IndexOf(paths, path)], TimeProvider.System, "keel test");
}

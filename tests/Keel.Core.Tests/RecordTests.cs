using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Layout;
using Keel.Core.Logbook;

namespace Keel.Core.Tests;

/// <summary>A record belongs to one disk, by all that can be known of it; a damaged one is said to be one.</summary>
public sealed class RecordTests
{
    private static readonly DiskTraits NoTraits = DiskTraits.None;
    private static readonly DiskIdentity Own = DiskIdentity.OfMbr(0xB4AC0042), Another = DiskIdentity.OfMbr(0x00C0FFEE);

    public static TheoryData<string, string?, string?, bool, bool, string> Disks => new()
    {
        // what, serial, file, own identity, written bytes stand; what is made of it
        { RepairCase.DiskName, "BF-0001", null, true, true, "sure" },
        { "/dev/other-name", "BF-0001", null, true, true, "sure" },
        { RepairCase.DiskName, "BF-0002", null, true, true, "none" },
        { RepairCase.DiskName, "BF-0001", null, false, true, "asked" },
        { RepairCase.DiskName, null, null, true, true, "taken" },
        { RepairCase.DiskName, null, null, true, false, "none" },
        { RepairCase.DiskName, null, null, false, false, "none" },
        { RepairCase.DiskName, null, null, false, true, "asked" },
        { "/dev/other-name", null, null, true, true, "asked" },
        { RepairCase.DiskName, "BF-0001", null, true, false, "overwritten" },
        { RepairCase.DiskName, "BF-0001", null, false, false, "none" }
    };

    [Theory, MemberData(nameof(Disks))]
    public void A_repair_is_taken_back_on_its_own_disk_only(
        string path,
        string? serial,
        string? file,
        bool ownIdentity,
        bool stands,
        string expected)
    {
        using var repair = new RepairCase();
        repair.Writer().Write(repair.Changes, RepairCase.Steps);
        var seen = new DiskSeen(
            path,
            new MemoryBlocks(stands ? repair.Wanted : repair.Old),
            ownIdentity ? Own : Another,
            new DiskTraits(null, serial, file));
        var search = RecordSearch.Newest(repair.Logbook.Read(), seen);
        Describe(search).ShouldBe(expected);
        if (search.Chosen is null && search.Overwritten is null) return;
        var work = new UndoTargets((search.Chosen ?? search.Overwritten)!.Record, [search.Chosen ?? search.Overwritten!], null)
        {
            EvenIfChanged = true
        };
        if (!stands) Should.NotThrow(() => Commit.Check(work));
    }

    [Fact]
    public void Bytes_that_do_not_fit_are_never_overridden_where_the_disk_is_not_surely_the_same()
    {
        using var repair = new RepairCase();
        var record = repair.Writer().Write(repair.Changes, RepairCase.Steps)!;
        foreach (var (identity, traits) in (ReadOnlySpan<(DiskIdentity, DiskTraits)>)[
            (Own, NoTraits),
            (Another, repair.Traits),
            (Another, NoTraits)
        ])
        {
            var other = new MemoryBlocks(new byte[RepairCase.DiskBytes]);
            var fit = new RecordFit(record, 0, new DiskSeen(RepairCase.DiskName, other, identity, traits));
            Should.Throw<Errors.RefusedException>(() =>
                repair.Writer(other).Undo(new UndoTargets(record, [fit], null) { EvenIfChanged = true }));
            other.Bytes.ContainsAnyExcept((byte)0).ShouldBeFalse();
        }
    }

    [Fact]
    public void A_clone_is_taken_back_by_itself_and_the_repair_of_the_original_still_stands()
    {
        using var repair = new RepairCase();
        var record = repair.Writer().Write(repair.Changes, RepairCase.Steps)!;
        var clone = new MemoryBlocks(repair.Wanted.ToArray());
        var fit = new RecordFit(record, 0, new DiskSeen("/dev/clone", clone, Own, NoTraits));
        repair.Writer(clone).Undo(new UndoTargets(record, [fit], null)).ShouldNotBeNull();
        clone.Bytes.ShouldHold(repair.Old);
        repair.Logbook.Records()[0].State.ShouldBe(RecordState.Done);
        repair.Search().Chosen!.Record.Document.Id.ShouldBe(record.Document.Id);
    }

    [Theory]
    [InlineData("before.bin", "cut")]
    [InlineData("after.bin", "cut")]
    [InlineData("before.bin", "gone")]
    public void Lost_saved_bytes_are_said_before_anything_is_written(string file, string how)
    {
        using var repair = new RepairCase();
        var record = repair.Writer().Write(repair.Changes, RepairCase.Steps)!;
        var path = Path.Combine(repair.LogbookFolder, "records", record.Document.Id, file);
        if (how == "gone") File.Delete(path);
        else File.WriteAllBytes(path, File.ReadAllBytes(path)[..1000]);
        Should.Throw<DamagedRecordException>(() => repair.Writer().Undo(repair.Work(record)));
        repair.Disk.Bytes.ShouldHold(repair.Wanted);
    }

    [Fact]
    public void Lost_saved_bytes_hide_no_other_repair()
    {
        using var repair = new RepairCase();
        var first = repair.Writer().Write(repair.Changes, RepairCase.Steps)!;
        var later = new Overlay(new MemoryBlocks(repair.Disk.Bytes.ToArray()));
        later.Write(2_900_000, new byte[600]);
        var second = repair.Writer().Write(repair.ChangesOf(later), RepairCase.Steps)!;
        File.Delete(Path.Combine(repair.LogbookFolder, "records", second.Document.Id, "before.bin"));
        var search = repair.Search();
        search.Overwritten!.Record.Document.Id.ShouldBe(second.Document.Id);
        search.Chosen!.Record.Document.Id.ShouldBe(first.Document.Id);
        repair.Writer().Undo(repair.Work(first));
    }

    /// <summary>A disk without a serial number, under another name after the restart that cut the repair off.</summary>
    [Fact]
    public void What_was_cut_off_is_completed_on_a_disk_whose_name_has_changed()
    {
        using var repair = new RepairCase { Traits = NoTraits };
        var record = repair.Writer().Write(repair.ChangesOf(repair.Overlay), RepairCase.Steps)!;
        record.Become([0], RecordState.Writing);
        var seen = repair.Seen with { Path = "/dev/other-name" };
        var pending = RecordSearch.Pending(repair.Logbook.Read(), seen).ShouldNotBeNull();
        repair.Writer().Undo(new UndoTargets(pending.Record, [pending], null)).ShouldBeNull();
        repair.Disk.Bytes.ShouldHold(repair.Old);
        RecordSearch.Pending(repair.Logbook.Read(), seen).ShouldBeNull();
    }

    public static TheoryData<string, string> Damages => new()
    {
        { "record.json", "{}" },
        { "record.json", "" },
        { "record.json", "null" },
        { "record.json", "\0\0\0\0" },
        { "record.json", "[1,2]" },
        { "state", "" },
        { "state", "Done" },
        { "state", "keel record 2\n" }, { "state", "\0\0\0\0\0" }, { "state", "keel record 99\nwhatever\n" }
    };

    [Theory, MemberData(nameof(Damages))]
    public void A_damaged_record_is_said_to_be_one_and_hides_no_other(string file, string contents)
    {
        using var repair = new RepairCase();
        var first = repair.Writer().Write(repair.Changes, RepairCase.Steps)!;
        repair.Writer().Undo(repair.Work(first));
        var second = repair.Writer().Write(repair.Changes, RepairCase.Steps)!;
        File.WriteAllText(Path.Combine(repair.LogbookFolder, "records", first.Document.Id, file), contents);
        var logbook = repair.Logbook.Read();
        logbook.Records.ShouldHaveSingleItem().Document.Id.ShouldBe(second.Document.Id);
        logbook.Unusable.ShouldHaveSingleItem().Id.ShouldBe(first.Document.Id);
        logbook.Unusable[0].IsNewer.ShouldBe(contents.Contains("99", StringComparison.Ordinal));
        repair.Writer().Undo(repair.Work(second));
        repair.Disk.Bytes.ShouldHold(repair.Old);
    }

    /// <summary>Records whose checksums are right and whose contents are not: written by something else, or by chance.</summary>
    [Theory]
    [InlineData("\"length\": 700", "\"length\": -700")]
    [InlineData("\"start\": 4608", "\"start\": 99999999999")]
    [InlineData("\"start\": 4608", "\"start\": -1")]
    [InlineData("\"ranges\"", "\"other\"")]
    [InlineData("\"disks\"", "\"other\"")]
    [InlineData("\"steps\"", "\"other\"")]
    [InlineData("\"path\": \"practice-disk\"", "\"path\": null")]
    [InlineData("\"before\": \"", "\"before\": \"x")]
    public void Numbers_out_of_their_bounds_make_a_record_unusable(string old, string replacement)
    {
        using var repair = new RepairCase();
        var record = repair.Writer().Write(repair.Changes, RepairCase.Steps)!;
        var folder = Path.Combine(repair.LogbookFolder, "records", record.Document.Id);
        var text = File.ReadAllText(Path.Combine(folder, "record.json"));
        var changed = old.StartsWith("\"length\"", StringComparison.Ordinal)
            ? System.Text.RegularExpressions.Regex.Replace(text, "\"length\": \\d+", "\"length\": -700")
            : text.Replace(old, replacement, StringComparison.Ordinal);
        changed.ShouldNotBe(text);
        var bytes = System.Text.Encoding.UTF8.GetBytes(changed);
        File.WriteAllBytes(Path.Combine(folder, "record.json"), bytes);
        File.WriteAllBytes(Path.Combine(folder, "state"), new RecordStates(Checksum.Of(bytes), record.Parts).ToBytes());
        var logbook = repair.Logbook.Read();
        logbook.Records.ShouldBeEmpty();
        logbook.Unusable.ShouldHaveSingleItem();
    }

    [Theory]
    [InlineData("/dev/shm/keel-not-there/logbook", true)]
    [InlineData("/usr/share/keel-not-there/logbook", false)]
    public void A_logbook_in_memory_is_known_before_its_folder_is_there(string folder, bool expected)
    {
        Assert.SkipWhen(!expected && new RepairLogbook("/usr").IsInMemory, "this system lives in memory itself");
        new RepairLogbook(folder).IsInMemory.ShouldBe(expected);
    }

    private static string Describe(UndoSearch search) => search switch
    {
        { Chosen: { IsSure: true } } => "sure",
        { Chosen: { IsQuestionable: true } } => "asked",
        { Chosen: not null } => "taken",
        { Overwritten: not null } => "overwritten",
        _ => "none"
    };
}

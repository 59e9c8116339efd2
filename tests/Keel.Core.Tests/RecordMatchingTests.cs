using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Layout;
using Keel.Core.Logbook;

namespace Keel.Core.Tests;

/// <summary>How sure it is that a disk is the one of a record, by all that is known of it.</summary>
public sealed class RecordMatchingTests
{
    private const long Length = RepairCase.DiskBytes;

    public static TheoryData<string?, string?, string?, string?, string?, string?, DiskMatch> Traits => new()
    {
        // model and serial number and file: then, and now
        { null, null, null, null, null, null, DiskMatch.Possible },
        { "Keel 5", "BF-1", null, "Keel 5", "BF-1", null, DiskMatch.Sure },
        { "Keel 5", "BF-1", null, "Keel 5", "BF-2", null, DiskMatch.Other },
        { "Keel 5", "BF-1", null, "Keel 6", "BF-1", null, DiskMatch.Other },
        { null, "BF-1", null, "Keel 5", "BF-1", null, DiskMatch.Sure },
        { "Keel 5", "BF-1", null, null, "BF-1", null, DiskMatch.Sure },
        { "Keel 5", "BF-1", null, "Keel 5", null, null, DiskMatch.Possible },
        { "Keel 5", null, null, "Keel 5", null, null, DiskMatch.Possible },
        { null, null, "1:2@3", null, null, "1:2@3", DiskMatch.Sure },
        { null, null, "1:2@3", null, null, "1:2@4", DiskMatch.Possible },
        { null, null, "1:2@3", null, null, null, DiskMatch.Possible },
        { "Keel 5", "BF-1", null, null, null, "1:2@3", DiskMatch.Possible },
        { null, "BF-1", "1:2@3", null, "BF-2", "1:2@3", DiskMatch.Sure }
    };

    [Theory]
    [MemberData(nameof(Traits))]
    public void Model_serial_number_and_file_tell(
        string? model,
        string? serial,
        string? file,
        string? modelNow,
        string? serialNow,
        string? fileNow,
        DiskMatch expected)
    {
        var then = new DiskTraits(model, serial, file);
        var now = new DiskTraits(modelNow, serialNow, fileNow);
        Recorded(then).SamenessTo(Seen(now)).ShouldBe(expected);
        Recorded(now).SamenessTo(Seen(then)).ShouldBe(expected);
        Recorded(then).SamenessTo(Seen(now, Length - 512)).ShouldBe(DiskMatch.Other);
    }

    [Theory]
    [InlineData(0xB4AC0042u, true)]
    [InlineData(0xB4AC0043u, true)]
    [InlineData(0xB4AC0044u, false)]
    [InlineData(0u, false)]
    public void The_signature_may_be_the_one_before_or_after_the_repair(uint signature, bool expected)
    {
        var recorded = Recorded(DiskTraits.None) with { IdentityBefore = "b4ac0042", IdentityAfter = "b4ac0043" };
        recorded.HasIdentityOf(Seen(DiskTraits.None) with { Identity = DiskIdentity.OfMbr(signature) }).ShouldBe(expected);
    }

    [Fact]
    public void A_repair_that_stands_is_found_on_its_disk_and_on_no_other()
    {
        using var repair = new RepairCase();
        var record = repair.Writer().Write(repair.Changes, RepairCase.Steps)!;
        var contents = repair.Logbook.Read();
        repair.Search().Chosen.ShouldNotBeNull().Record.Document.Id.ShouldBe(record.Document.Id);
        RecordSearch.About(contents, repair.Seen).ShouldHaveSingleItem();
        RecordSearch.Pending(contents, repair.Seen).ShouldBeNull();

        var other = repair.Seen with { Traits = new DiskTraits("Brackwater", "BF-0002", null) };
        RecordSearch.Newest(contents, other).Chosen.ShouldBeNull();
        RecordSearch.About(contents, other).ShouldBeEmpty();
        RecordSearch.Of(contents.Records[0], other).ShouldBeNull();
    }

    [Fact]
    public void A_disk_that_has_changed_its_name_and_its_signature_is_known_by_its_serial_number()
    {
        using var repair = new RepairCase();
        repair.Writer().Write(repair.Changes, RepairCase.Steps);
        var moved = repair.Seen with { Path = "elsewhere", Identity = DiskIdentity.OfMbr(7) };
        var fit = RecordSearch.Newest(repair.Logbook.Read(), moved).Chosen.ShouldNotBeNull();
        (fit.DiskMatch, fit.HasPath, fit.HasIdentity, fit.IsSure).ShouldBe((DiskMatch.Sure, false, false, false));
        fit.IsQuestionable.ShouldBeTrue();
        fit.Stands().ShouldBeTrue();
    }

    [Fact]
    public void One_byte_that_something_else_wrote_is_found_in_its_place()
    {
        using var repair = new RepairCase();
        repair.Writer().Write(repair.Changes, RepairCase.Steps);
        repair.Disk.Bytes[120_000] ^= 0xFF;
        var contents = repair.Logbook.Read();
        var fit = RecordSearch.Of(contents.Records[0], repair.Seen).ShouldNotBeNull();
        fit.Stands().ShouldBeFalse();
        var place = fit.Foreign().ShouldHaveSingleItem();
        (120_000 - place).ShouldBeInRange(0, 511);
        RecordSearch.Newest(contents, repair.Seen).Chosen.ShouldBeNull();
        RecordSearch.Newest(contents, repair.Seen).Overwritten.ShouldNotBeNull();
    }

    private static RecordedDisk Recorded(DiskTraits traits) =>
        new(RepairCase.DiskName, Length, "b4ac0042", "b4ac0042", traits, [new RecordedRange(0, 512, "", "")]);

    private static DiskSeen Seen(DiskTraits traits, long length = Length) =>
        new(RepairCase.DiskName, new MemoryBlocks(new byte[length]), DiskIdentity.OfMbr(0xB4AC0042), traits);
}

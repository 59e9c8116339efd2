using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Firmware;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>What the disk does not give is unreadable, never missing or damaged, and nothing is planned on it.</summary>
public sealed class ReadErrorTests
{
    private static readonly string[] Unreadable =
    [
        "disk-read-errors",
        "link-unreadable",
        "table-unreadable",
        "table-logical-unreadable",
        "gpt-primary-unreadable",
        "gpt-backup-unreadable",
        "windows-volume-unreadable",
        "volume-unreadable",
        "start-file-unreadable", "link-not-judged"
    ];

    public static TheoryData<string, FirmwareKind> Disks => new()
    {
        { "none", FirmwareKind.Bios },
        { "none", FirmwareKind.Uefi },
        { "store-missing", FirmwareKind.Bios },
        { "loader-cut-short", FirmwareKind.Uefi },
        { "boot-line-wrong-folder", FirmwareKind.Bios },
        { "driver-snapshot", FirmwareKind.Bios }
    };

    [Theory, MemberData(nameof(Disks))]
    public void A_disk_that_fails_at_any_read_has_the_same_findings_or_unreadable_ones(string fault, FirmwareKind firmware)
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec { Firmware = firmware }, Faults.Find(fault));
        using var image = DiskFile.Open(scratch["disk"]);
        var (usual, _, reads) = Diagnose(image, failAt: 0, scratch["disk"]);
        reads.ShouldBeGreaterThan(50);
        foreach (var failAt in Enumerable.Range(1, reads).Where(number => Rotation.IsTurnOf(number % 4, 4)))
        {
            var (findings, plan, _) = Diagnose(image, failAt, scratch["disk"]);
            findings
                .Where(id => !usual.Contains(id) && !Unreadable.Contains(id))
                .ShouldBeEmpty($"read {failAt} of {reads} failed");
            if (!findings.SequenceEqual(usual)) findings[0].ShouldBe("disk-read-errors", $"read {failAt} of {reads} failed");
            plan.Steps.Select(step => step.FindingId).ShouldBeSubsetOf(usual, $"read {failAt} of {reads} failed");
        }
    }

    [Theory]
    [InlineData(0L, "table-unreadable")]
    [InlineData(2048L, "link-unreadable")]
    public void A_bad_sector_is_named_first_and_mended_by_nothing(long sector, string expected)
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.Find("none"));
        using var image = DiskFile.Open(scratch["disk"]);
        using var machine = new Machine([new MachineDisk("/dev/practice", new FailingReads(image, (_, _) => false, sector))]);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Findings[0].Id.ShouldBe("disk-read-errors");
        $"{plan.Findings[0].Seen}".ShouldContain($"{sector}");
        plan.Findings.Select(finding => finding.Id).ShouldContain(expected);
        plan.Steps.ShouldBeEmpty();
        plan.Findings.ShouldNotContain(finding =>
            finding.Id.EndsWith("-missing", StringComparison.Ordinal)
                || finding.Id.EndsWith("-wiped", StringComparison.Ordinal)
                || finding.Id.EndsWith("-damaged", StringComparison.Ordinal));
    }

    /// <summary>The page cache gives up eight sectors for one bad one; the other seven are still read.</summary>
    [Theory]
    [InlineData(3L)]
    [InlineData(2049L)]
    public void A_bad_sector_beside_a_needed_one_hides_nothing(long sector)
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.Find("none"));
        using var image = DiskFile.Open(scratch["disk"]);
        using var machine = new Machine([new MachineDisk("/dev/practice", new FailingReads(image, (_, _) => false, sector))]);
        var walk = Walk.Of(machine);
        walk.Findings.ShouldNotContain(finding =>
            finding.Id == "table-unreadable" || finding.Id == "table-missing" || finding.Id == "sector-wiped");
        machine.StartDisk.Layout.Partitions.Count.ShouldBe(2);
    }

    [Theory]
    [InlineData("store-missing", FirmwareKind.Bios)]
    [InlineData("manager-missing", FirmwareKind.Uefi)]
    [InlineData("loader-missing", FirmwareKind.Uefi)]
    public void A_write_that_fails_inside_the_overlay_leaves_no_half_step(string fault, FirmwareKind firmware)
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec { Firmware = firmware }, Faults.Find(fault));
        var isWhole = false;
        for (var failAt = 1; failAt < 400 && !isWhole; failAt++)
        {
            using var machine = Machine.Open(scratch["disk"]);
            var writes = 0;
            machine.StartDisk.Overlay.BeforeWrite = () =>
            {
                if (++writes == failAt) throw new UnreadableException("The overlay took no more.", "It was told to.", "");
            };
            var plan = Plan.For(machine, RepairTerms.Usual);
            isWhole = writes < failAt;
            if (plan.Steps.Count == 0) plan.Changes.Any.ShouldBeFalse($"write {failAt} failed");
            else plan.After.Verdict.ShouldBe(Verdict.Sound, $"write {failAt} failed");
        }

        isWhole.ShouldBeTrue();
    }

    private static (IReadOnlyList<string> Findings, Plan Plan, int Reads) Diagnose(DiskFile image, int failAt, string path)
    {
        var calls = 0;
        long? bad = null;
        var failing = new FailingReads(
            image,
            (offset, length) =>
            {
                if (++calls == failAt) bad = offset / 512;
                return bad is { } sector && sector * 512 < offset + length && (sector + 1) * 512 > offset;
            },
            badSector: null);
        var variables = PracticeVariables.FolderFor(path);
        using var machine = new Machine(
            [new MachineDisk("/dev/practice", failing)],
            Directory.Exists(variables) ? FirmwareVariables.Open(variables) : null);
        var plan = Diagnosis.Of(machine, null, RepairTerms.Usual).Plan;
        return ([.. plan.Findings.Select(finding => finding.Id).Distinct()], plan, calls);
    }

    private sealed class FailingReads(IReadableBlocks disk, Func<long, int, bool> fails, long? badSector) : IReadableBlocks
    {
        public long LengthBytes => disk.LengthBytes;

        public int SectorBytes => disk.SectorBytes;

        public void Read(long offsetBytes, Span<byte> buffer)
        {
            if (badSector is { } bad && bad * SectorBytes < offsetBytes + buffer.Length && (bad + 1) * SectorBytes > offsetBytes)
                throw Failed(bad);
            if (fails(offsetBytes, buffer.Length)) throw Failed(offsetBytes / SectorBytes);
            disk.Read(offsetBytes, buffer);
        }

        private static ReadFailedException Failed(long sector) =>
            new("The practice disk failed.", "It was told to.", "", [sector]);
    }
}

using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>What a disk says of itself, and images of failing ones with the map of what they lack.</summary>
public sealed class DiskHealthTests
{
    private const string Head = "\"smartctl\":{\"version\":[7,3]},\"model_name\":\"Tideline 500\",\"serial_number\":\"BF0001\"";

    [Theory]
    [InlineData("\"smart_status\":{\"passed\":true},\"power_on_time\":{\"hours\":1200}", HealthCondition.Healthy, 0)]
    [InlineData("\"smart_status\":{\"passed\":false}", HealthCondition.Failing, 1)]
    [InlineData("\"smart_status\":{\"passed\":true},\"ata_smart_attributes\":{\"table\":[{\"id\":197,\"raw\":{\"value\":8}}]}",
        HealthCondition.Doubtful, 1)]
    [InlineData("\"ata_smart_attributes\":{\"table\":[{\"id\":5,\"name\":\"x\",\"when_failed\":\"now\",\"raw\":{\"value\":9}}]}",
        HealthCondition.Failing, 2)]
    [InlineData("\"smart_status\":{},\"nvme_smart_health_information_log\":{\"critical_warning\":4,\"media_errors\":2}",
        HealthCondition.Failing, 2)]
    [InlineData("\"nvme_smart_health_information_log\":{\"available_spare\":3,\"available_spare_threshold\":10}",
        HealthCondition.Doubtful, 1)]
    [InlineData("\"smart_support\":{\"available\":false}", HealthCondition.Unknown, 0)]
    [InlineData("\"smart_status\":7,\"ata_smart_attributes\":[],\"temperature\":\"hot\"", HealthCondition.Unknown, 0)]
    public void What_a_disk_says_comes_to_a_word(string rest, HealthCondition expected, int signs)
    {
        var health = DiskHealth.TryRead($"{{{Head},{rest}}}").ShouldNotBeNull();
        health.Condition.ShouldBe(expected);
        health.Signs.Count.ShouldBe(signs);
        health.Traits.Serial.ShouldBe("BF0001");
    }

    [Theory]
    [InlineData("")]
    [InlineData("[]")]
    [InlineData("{}")]
    [InlineData("{\"smartctl\":")]
    public void What_is_no_answer_is_none(string text) => DiskHealth.TryRead(text).ShouldBeNull();

    [Fact]
    public void A_map_tells_what_an_image_lacks()
    {
        var text = Map("0x00000000  0x00100000  +", "0x00100000  0x00000200  -", "0x00100200  0x1000  ?");
        var map = MapFile.TryRead(text).ShouldNotBeNull();
        map.Missing.ShouldBe([new ByteRange(0x100000, 0x200), new ByteRange(0x100200, 0x1000)]);
        MapFile.TryRead("# some other text\n0x0 + 1\n").ShouldBeNull();
        MapFile.TryRead(Map("0x00  nothing  +")).ShouldBeNull();
        MapFile.TryRead(Map("0x7FFFFFFFFFFFFFFF  0x7FFFFFFFFFFFFFFF  -")).ShouldNotBeNull().Missing.ShouldBeEmpty();
    }

    /// <summary>What the map says was not read is unreadable, as on the disk: not wiped, and not written over.</summary>
    [Fact]
    public void Sectors_that_an_image_lacks_are_unreadable()
    {
        using var scratch = new Scratch();
        var disk = scratch["disk.img"];
        PracticeImage.Make(disk, new PracticeSpec(), Faults.Find("none"));
        const long start = 2048 * 512;
        using (var file = File.OpenWrite(disk))
        {
            file.Position = start;
            file.Write(new byte[512]);
        }

        using (var wiped = Machine.Open(disk)) Walk.Of(wiped).Findings.ShouldContain(finding => finding.Id == "sector-wiped");
        File.WriteAllText(
            disk + ".map",
            Map($"0x0  0x{start:X}  +", $"0x{start:X}  0x200  -", $"0x{start + 512:X}  0x10000000  +"));
        using var machine = Machine.Open(disk);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Findings.Select(finding => finding.Id).ShouldContain("disk-read-errors");
        plan.Findings.Select(finding => finding.Id).ShouldNotContain("sector-wiped");
        plan.Steps.ShouldBeEmpty();
    }

    private static string Map(params string[] lines) =>
        "# Mapfile. Created by GNU ddrescue version 1.27\n# current_pos  current_status\n0x00000000     +               1\n"
            + string.Join('\n', lines) + "\n";
}

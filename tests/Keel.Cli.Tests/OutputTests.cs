using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>What the technician reads: the answer first, in 80 columns, the same facts as JSON.</summary>
public sealed class OutputTests
{
    [Theory]
    [InlineData("c0000034", "0xC0000034")]
    [InlineData("0xC0000034", "0xC0000034")]
    [InlineData("0xc000034", "0xC0000034")]
    [InlineData("0xc0034", "0xC0000034")]
    [InlineData("c000e", "0xC000000E")]
    [InlineData("3221225524", "0xC0000034")]
    [InlineData("-1073741772", "0xC0000034")]
    [InlineData("0x7B", "stop 0x0000007B")]
    [InlineData("stop 7b", "stop 0x0000007B")]
    [InlineData("STATUS_OBJECT_NAME_NOT_FOUND", "0xC0000034")]
    [InlineData("missing operating system", "missing operating system")]
    [InlineData("bootmgr is missing, press ctrl+alt+del to restart", "BOOTMGR is missing")]
    [InlineData("NTLDR is compressed", "NTLDR is compressed")]
    [InlineData("keel: BOOTMGR not found", "BOOTMGR is missing")]
    [InlineData("total identified windows installations: 0", "no installations found")]
    [InlineData("the requested system device cannot be found", "element not found")]
    [InlineData("no boot device", "no bootable device")]
    public async Task A_code_or_message_is_found_as_people_type_it(string typed, string id)
    {
        var match = await KeelProgram.Json(0, ["explain", .. typed.Split(' ')]);
        match.GetProperty("errors")[0].GetProperty("id").GetString().ShouldBe(id);
    }

    [Theory]
    [InlineData("0xc000034", true)]
    [InlineData("0xc0000034", false)]
    public async Task A_guess_is_called_a_guess(string typed, bool guessed) =>
        (await KeelProgram.Json(0, "explain", typed)).GetProperty("guessed").GetBoolean().ShouldBe(guessed);

    [Fact]
    public async Task The_first_screen_says_what_is_broken_and_what_to_type()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var lines = (await KeelProgram.Must(1, "diagnose", disk, "--plain")).TrimEnd().Split('\n');
        lines[0].ShouldBe("BROKEN at store: The boot configuration store is missing.");
        lines.Length.ShouldBeLessThanOrEqualTo(25);
        lines[^1].ShouldBe($"Next: keel mend {disk}");
        lines.ShouldAllBe(line => line.Length <= 80 && line.All(letter => letter >= 32 && letter < 127));
    }

    [Theory]
    [InlineData("c0000034", "it fits, store-missing leads to it")]
    [InlineData("c0000428", "nothing found here leads to it")]
    public async Task A_reported_code_is_held_against_the_findings(string code, string words)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        (await KeelProgram.Must(1, "diagnose", disk, "--code", code)).Replace("\n", " ", StringComparison.Ordinal).ShouldContain(words);
        (await KeelProgram.Json(1, "diagnose", disk, "--code", code)).GetProperty("reported").GetProperty("explainedBy").GetArrayLength().ShouldBe(words.Contains("fits", StringComparison.Ordinal) ? 1 : 0);
    }

    [Fact]
    public async Task The_survey_names_volumes_roles_letters_and_installations()
    {
        using var scratch = new Scratch();
        var survey = await KeelProgram.Json(0, "survey", await KeelProgram.Practice(scratch, "none"));
        survey.GetProperty("firmware").GetString().ShouldBe("bios");
        var partitions = survey.GetProperty("disks")[0].GetProperty("partitions");
        partitions[0].GetProperty("roles")[0].GetString().ShouldBe("system");
        partitions[0].GetProperty("active").GetBoolean().ShouldBeTrue();
        partitions[1].GetProperty("windowsLetter").GetString().ShouldBe("C:");
        partitions[1].GetProperty("label").GetString().ShouldBe("Brackwater OS");
        partitions[1].GetProperty("installations")[0].GetProperty("build").GetInt32().ShouldBe(19045);
    }

    [Fact]
    public async Task A_damaged_store_stays_beside_the_new_one()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-truncated");
        await KeelProgram.Must(0, "mend", disk, "--yes", "--logbook", scratch["logbook"]);
        var listing = await Tool.MustAgree("ntfsls", "-a", "-f", "-p", "/Boot", Images.Part(disk, scratch, "v", 1, 64));
        listing.ShouldContain("BCD.aside1");
    }

    [Fact]
    public async Task Breaks_at_several_links_are_found_in_one_run()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "sector-wiped");
        await Tool.MustAgree("bash", "-c", $"dd if=/dev/zero of={disk} bs=440 count=1 conv=notrunc status=none");
        var found = await KeelProgram.Json(1, "diagnose", disk);
        found.GetProperty("findings").EnumerateArray().Select(finding => finding.GetProperty("id").GetString()).ShouldBe(["mbr-code-wiped", "sector-wiped"]);
        found.GetProperty("verdictAfterPlan").GetString().ShouldBe("sound");
    }

    [Theory]
    [InlineData("frobnicate", "There is no \"frobnicate\" here.")]
    [InlineData("diagnose", "DISK")]
    [InlineData("drill new nothing --out x", "There is no drill \"nothing\".")]
    public async Task Wrong_usage_is_told_and_ends_with_2(string command, string words)
    {
        var (code, _, error) = await KeelProgram.Run(command.Split(' '));
        code.ShouldBe(2);
        error.ShouldContain(words);
    }
}

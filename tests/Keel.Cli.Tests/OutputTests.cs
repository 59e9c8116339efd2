using Keel.Core.Chain;
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
    [InlineData("the requested system device cannot be found", "0xC0000452")]
    [InlineData("no boot device", "no bootable device")]
    public async Task A_code_or_message_is_found_as_people_type_it(string typed, string id)
    {
        var match = await KeelProgram.Json(0, ["explain", .. typed.Split(' ')]);
        match.GetProperty("errors")[0].GetProperty("id").GetString().ShouldBe(id);
    }

    [Fact]
    public async Task A_screen_names_its_findings_and_a_finding_its_screens()
    {
        var error = await KeelProgram.Json(0, "explain", "c0000034");
        error.GetProperty("findings").EnumerateArray().Select(kind => kind.GetProperty("id").GetString())
            .ShouldContain("store-missing");
        var finding = await KeelProgram.Json(0, "explain", "preferred-dangling");
        finding.GetProperty("findings")[0].GetProperty("shows")[0].GetString().ShouldBe("0xC0000034");
        var beyond = await KeelProgram.Must(0, "explain", "volume-unclean");
        string.Join(' ', beyond.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries))
            .ShouldContain("It stays marked, so that Windows checks it");
        (await KeelProgram.Must(1, "explain", "store-misssing")).ShouldContain("keel explain store-missing");
        AllFindings.Kinds.Where(kind => !kind.IsOfAnyLink).ShouldBe(FindingKinds.All, ignoreOrder: true);
        (await KeelProgram.Must(0, "explain", "link-unreadable")).ShouldContain("any link");
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
    [InlineData("c0000428", "it does not fit")]
    public async Task A_reported_code_is_held_against_the_findings(string code, string words)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        (await KeelProgram.Must(1, "diagnose", disk, "--code", code))
            .Replace("\n", " ", StringComparison.Ordinal)
            .ShouldContain(words);
        (await KeelProgram.Json(1, "diagnose", disk, "--code", code))
            .GetProperty("reported")
            .GetProperty("explainedBy")
            .GetArrayLength()
            .ShouldBe(words.Contains("it fits", StringComparison.Ordinal) ? 1 : 0);
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
        found
            .GetProperty("findings")
            .EnumerateArray()
            .Select(finding => finding.GetProperty("id").GetString())
            .ShouldBe(["mbr-code-wiped", "sector-wiped"]);
        found.GetProperty("verdictAfterPlan").GetString().ShouldBe("sound");
    }

    [Theory]
    [InlineData("frobnicate", "There is no command \"frobnicate\".")]
    [InlineData("services list", "DISK")]
    [InlineData("drill new nothing --out x", "There is no drill \"nothing\".")]
    public async Task Wrong_usage_is_told_and_ends_with_2(string command, string words)
    {
        var (code, _, error) = await KeelProgram.Run(command.Split(' '));
        code.ShouldBe(2);
        error.ShouldContain(words);
    }

    [Theory]
    [InlineData("/usr/lib/syslinux/mbr/mbr.bin", "SYSLINUX")]
    [InlineData("/usr/lib/grub/i386-pc/boot.img", "GRUB")]
    public async Task Another_loaders_code_is_not_overwritten_unasked(string code, string name)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        await Tool.MustAgree("dd", $"if={code}", $"of={disk}", "bs=440", "count=1", "conv=notrunc", "status=none");
        var before = await Images.Hash(disk);
        foreach (var command in (string[])["mend", "mbr rewrite"])
        {
            (await KeelProgram.Run([
                .. command.Split(' '),
                disk,
                "--yes",
                "--logbook",
                scratch["logbook"]
            ])).ExitCode.ShouldBe(command == "mend" ? 1 : 4);
        }

        (await Images.Hash(disk)).ShouldBe(before);
        (await KeelProgram.Must(0, "mbr", "show", disk)).ShouldContain(name);
        await KeelProgram.Must(0, "mbr", "rewrite", disk, "--yes", "--replace-foreign", "--logbook", scratch["logbook"]);
        (await Emulator.Reaches(disk)).ShouldBeTrue();
    }

    [Fact]
    public async Task Boot_code_comes_from_another_disk_where_one_is_named()
    {
        using var scratch = new Scratch();
        var healthy = await KeelProgram.Practice(scratch, "none", "healthy.img");
        var disk = await KeelProgram.Practice(scratch, "mbr-code-wiped");
        await KeelProgram.Must(0, "mbr", "rewrite", disk, "--from", healthy, "--yes", "--logbook", scratch["logbook"]);
        await KeelProgram.Must(0, "sector", "rewrite", disk, "--from", healthy, "--yes", "--logbook", scratch["logbook"]);
        (await Emulator.Reaches(disk)).ShouldBeTrue();
        var wiped = await KeelProgram.Practice(scratch, "mbr-code-wiped", "wiped.img");
        var (code, _, error) = await KeelProgram.Run(
            "mbr",
            "rewrite",
            disk,
            "--from",
            wiped,
            "--yes",
            "--logbook",
            scratch["logbook"]);
        code.ShouldBe(4);
        error.ShouldContain("no healthy boot code");
    }

    [Fact]
    public async Task The_active_mark_moves_where_it_is_told_and_not_to_a_volume_that_is_not_there()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "table-active-wrong");
        await KeelProgram.Must(0, "mbr", "activate", disk, "--volume", "1", "--yes", "--logbook", scratch["logbook"]);
        (await Emulator.Reaches(disk)).ShouldBeTrue();
        await KeelProgram.Must(2, "mbr", "activate", disk, "--volume", "7", "--yes", "--logbook", scratch["logbook"]);
    }

    [Fact]
    public async Task Boot_code_for_the_older_loader_is_written_when_asked()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        await KeelProgram.Must(1, "sector", "rewrite", disk, "--for", "nt5", "--yes", "--logbook", scratch["logbook"]);
        (await KeelProgram.Json(0, "sector", "show", disk)).GetProperty("looksFor").GetString().ShouldBe("NTLDR");
        (await Emulator.Start(disk, screenToSerial: true, until: "not found")).ShouldContain("keel: NTLDR not found");
    }
}

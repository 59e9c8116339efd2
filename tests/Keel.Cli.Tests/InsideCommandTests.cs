using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// A virtual disk in a volume in a disk: looked at, mended through all layers with one record, taken back, and started from.
/// </summary>
public sealed class InsideCommandTests
{
    private const int WindowsMiB = 65, LengthMiB = 256;

    [Theory]
    [InlineData("vhdx", "block_size=1M", @"volume:2:\second.vhdx")]
    [InlineData("vpc", "force_size", @"2:\second.vhdx")]
    public async Task It_is_mended_through_all_layers_and_taken_back_to_the_byte(string format, string options, string place)
    {
        using var scratch = new Scratch();
        var (disk, before) = (await Nested(scratch, format, options), "");
        before = await Images.Hash(disk);
        (await KeelProgram.Must(1, "diagnose", disk, "--inside", place)).ShouldStartWith("BROKEN at mbr-code");
        (await Images.Hash(disk)).ShouldBe(before, "looking writes nothing");

        var said = await KeelProgram.Must(0, "mend", disk, "--inside", place, "--yes", "--logbook", scratch["logbook"]);

        said.ShouldContain($"keel undo {disk}");
        (await KeelProgram.Must(0, "diagnose", disk, "--inside", place)).ShouldStartWith("SOUND");
        var volume = Images.Part(disk, scratch, "volume", WindowsMiB, LengthMiB);
        await Tool.MustAgree("ntfsfix", "-n", volume);
        await Tool.MustAgree("sh", "-c", $"ntfscat -f {volume} second.vhdx > {scratch["inner"]}");
        if (format == "vhdx") await Tool.MustAgree("qemu-img", "check", "-q", "-f", format, scratch["inner"]);
        (await Emulator.Start(scratch["inner"], seconds: 30, format: format)).ShouldContain("STAND-IN REACHED drive 80 serial ");
        await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", scratch["logbook"]);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task An_entry_for_it_is_added_listed_walked_and_taken_back()
    {
        using var scratch = new Scratch();
        var disk = await Nested(scratch, "vhdx", "block_size=1M");
        var before = await Images.Hash(disk);
        string[] logbook = ["--logbook", scratch["logbook"]];
        string[] named = [disk, "--inside", @"volume:2:\second.vhdx", "--title", "Timetable office"];
        var (code, _, note) = await KeelProgram.Run(["store", "add", "windows", .. named, "--yes", .. logbook]);
        code.ShouldBe(0);
        note.ShouldContain("is of a form that no running");
        (await KeelProgram.Must(0, "store", "list", disk)).ShouldContain(@"inside:2:\second.vhdx");
        var survey = await KeelProgram.Json(0, "survey", disk);
        var inner = survey.GetProperty("disks").EnumerateArray().Last();
        inner.GetProperty("inside").GetString().ShouldBe(@"volume:2:\second.vhdx");
        inner.GetProperty("form").GetString().ShouldBe("vhdx");

        await KeelProgram.Must(1, ["store", "prefer", disk, "Timetable office", "--yes", .. logbook]);

        var walked = await KeelProgram.Json(1, "diagnose", disk, "--all");
        walked.GetProperty("findings").EnumerateArray().Select(finding => finding.GetProperty("id").GetString())
            .ShouldBe(["inside-no-room"], "322 MiB would not fit");
        walked.GetProperty("links").EnumerateArray()
            .Count(link => link.GetProperty("status").GetString() == "sound")
            .ShouldBe(13);
        await KeelProgram.Must(0, ["undo", disk, "--yes", .. logbook]);
        await KeelProgram.Must(0, ["undo", disk, "--yes", .. logbook]);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    /// <summary>Faults of the Windows in the file, and of the way to it.</summary>
    [Theory]
    [InlineData("inside-entry-missing+loader-missing", "bios")]
    [InlineData("inside-entry-missing+system-hive-damaged", "uefi")]
    [InlineData("inside-file-moved+kernel-missing", "uefi")]
    [InlineData("inside-file-moved+storage-driver-disabled", "bios")]
    public async Task Two_faults_at_once_are_mended_and_taken_back(string faults, string firmware)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, faults, firmware: firmware);
        var before = await Images.Hash(disk);
        string[] variables = firmware == "uefi" ? ["--variables", $"{disk}.variables"] : [];
        await KeelProgram.Must(0, ["mend", disk, "--yes", "--logbook", scratch["logbook"], .. variables]);
        (await KeelProgram.Must(0, ["diagnose", disk, .. variables])).ShouldStartWith("SOUND");
        await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", scratch["logbook"]);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Theory]
    [InlineData(@"volume:2:\nothing.vhdx", 3)]
    [InlineData(@"volume:9:\second.vhdx", 3)]
    [InlineData(@"volume:2:\Windows\System32\ntoskrnl.exe", 3)]
    [InlineData(@"volume:2:\Windows", 3)]
    [InlineData("second.vhdx", 2)]
    [InlineData("volume:0:x", 2)]
    public async Task What_is_not_there_is_said(string place, int exitCode)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var (code, _, error) = await KeelProgram.Run("diagnose", disk, "--inside", place);
        code.ShouldBe(exitCode);
        error.ShouldStartWith("keel: ");
    }

    /// <summary>
    /// A practice machine with another, whose master boot record has no code, in \second.vhdx of its Windows volume.
    /// </summary>
    private static async Task<string> Nested(Scratch scratch, string format, string options)
    {
        var disk = await KeelProgram.Practice(scratch, "none");
        var inner = await KeelProgram.Practice(scratch, "mbr-code-wiped", "inner.img");
        await Tool.MustAgree("qemu-img", "convert", "-f", "raw", "-O", format, "-o", options, inner, scratch["inner.file"]);
        var volume = Images.Part(disk, scratch, "holder", WindowsMiB, LengthMiB);
        await Tool.MustAgree("ntfscp", "-q", volume, scratch["inner.file"], "/second.vhdx");
        await Tool.MustAgree("dd", $"if={volume}", $"of={disk}", "bs=1M", $"seek={WindowsMiB}", "conv=notrunc", "status=none");
        return disk;
    }
}

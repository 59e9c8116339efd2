using System.Globalization;
using System.Text.Json;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Recovery media: written, read back, and judged by sgdisk, sfdisk, fsck.fat and mtools.</summary>
public sealed partial class StickTests
{
    private const int MiB = 1024 * 1024;

    [Fact]
    public async Task A_stick_holds_the_image_and_a_partition_that_others_find_sound()
    {
        using var scratch = new Scratch();
        var stick = Blank(scratch, 160);
        var said = await Write(stick);
        said.Split('\n')[0].ShouldContain("stick.img is written over with the image \"KEEL\"");
        said.ShouldContain("Written and read back");
        await Tool.MustAgree("sgdisk", "--verify", stick);
        (await Tool.MustAgree("sfdisk", "--dump", stick)).ShouldContain("name=\"KEELLOG\"");
        var log = await LogOf(stick, 4);
        await Tool.MustAgree("fsck.fat", "-n", log);
        (await Tool.MustAgree("mlabel", "-s", "-i", log, "::")).ShouldContain("KEELLOG");

        var report = await KeelProgram.Json(0, "stick", "check", stick);
        report.GetProperty("whole").GetBoolean().ShouldBeTrue();
        report.GetProperty("startsBios").GetBoolean().ShouldBeTrue();
        report.GetProperty("startsUefi").GetBoolean().ShouldBeTrue();
        report.GetProperty("logbookVolume").GetInt32().ShouldBe(4);
    }

    [Theory]
    [InlineData(20 * MiB, "not fit the checksum", true, true)]
    [InlineData(40_000, "not fit the checksum", true, true)]
    [InlineData(0x100, "", true, true)]
    public async Task A_byte_that_changed_is_seen_unless_it_is_in_the_table(long at, string words, bool bios, bool uefi)
    {
        using var scratch = new Scratch();
        var stick = Blank(scratch, 160);
        await Write(stick);
        await Flip(stick, at);
        var report = await KeelProgram.Json(words.Length > 0 ? 1 : 0, "stick", "check", stick);
        report.GetProperty("whole").GetBoolean().ShouldBe(words.Length == 0);
        report.GetProperty("startsBios").GetBoolean().ShouldBe(bios);
        report.GetProperty("startsUefi").GetBoolean().ShouldBe(uefi);
        string.Join(' ', report.GetProperty("problems").EnumerateArray().Select(one => one.GetString())).ShouldContain(words);
    }

    [Theory]
    [InlineData("no-code", "no boot code")]
    [InlineData("no-efi-file", "BOOTX64.EFI is not on")]
    [InlineData("efi-cut", "is damaged")]
    [InlineData("short", "and what was written to it")]
    public async Task What_would_not_start_is_told(string damage, string words)
    {
        using var scratch = new Scratch();
        var stick = Blank(scratch, 160);
        await Write(stick);
        var efi = $"{stick}@@{await Images.StartOf(stick, 2)}";
        switch (damage)
        {
            case "no-code":
                await using (var file = File.OpenWrite(stick)) file.Write(new byte[440]);
                break;
            case "no-efi-file":
                await Tool.MustAgree("mdel", "-i", efi, "::/EFI/BOOT/BOOTX64.EFI");
                break;
            case "efi-cut":
                await File.WriteAllBytesAsync(scratch["half"], new byte[70_000], TestContext.Current.CancellationToken);
                await Tool.MustAgree("mcopy", "-o", "-i", efi, scratch["half"], "::/EFI/BOOT/BOOTX64.EFI");
                break;
            default:
                await using (var file = File.OpenWrite(stick)) file.SetLength(30 * MiB);
                break;
        }

        (await KeelProgram.Must(1, "stick", "check", stick)).ReplaceLineEndings(" ").Replace("  ", " ", StringComparison.Ordinal)
            .ShouldContain(words);
    }

    [Fact]
    public async Task An_image_of_another_kind_is_written_too_and_compared_with_its_file()
    {
        using var scratch = new Scratch();
        var (image, stick) = (scratch["other.img"], Blank(scratch, 100));
        await Other(scratch, image);
        await Write(stick, image);
        (await Tool.MustAgree("sfdisk", "--dump", stick)).ShouldContain("type=c");
        await Tool.MustAgree("fsck.fat", "-n", await LogOf(stick, 2));
        var alone = await KeelProgram.Json(1, "stick", "check", stick);
        alone.GetProperty("whole").ValueKind.ShouldBe(JsonValueKind.Null);
        (await KeelProgram.Json(1, "stick", "check", stick, "--image", image)).GetProperty("whole").GetBoolean().ShouldBeTrue();
        await Flip(stick, 5 * MiB);
        (await KeelProgram.Json(1, "stick", "check", stick, "--image", image)).GetProperty("whole").GetBoolean().ShouldBeFalse();
    }

    [Fact]
    public async Task A_stick_that_was_something_else_keeps_no_trace_of_its_old_table()
    {
        using var scratch = new Scratch();
        var stick = Blank(scratch, 160);
        await Tool.MustAgree("sgdisk", "--new=1:2048:100000", "--new=2:0:0", stick);
        var said = await Write(stick);
        said.ShouldContain("LOST, and not in the logbook:");
        await Tool.MustAgree("sgdisk", "--verify", stick);
        (await Tool.MustAgree("sgdisk", "--print", stick)).ShouldNotContain("Linux filesystem");
    }

    [Theory]
    [InlineData(2, "nobody", "--erase says")]
    [InlineData(4, "", "Nobody is at a terminal")]
    public async Task Without_the_name_of_the_device_nothing_is_written(int code, string erase, string words)
    {
        using var scratch = new Scratch();
        var stick = Blank(scratch, 160);
        var before = await Images.Hash(stick);
        string[] more = erase.Length > 0 ? ["--erase", erase] : [];
        var (exitCode, _, error) = await KeelProgram.Run(["stick", "write", RescueMachine.Image, stick, .. more]);
        exitCode.ShouldBe(code);
        error.ShouldContain(words);
        (await Images.Hash(stick)).ShouldBe(before);
    }

    [Theory]
    [InlineData("small", "Take a larger stick")]
    [InlineData("text", "no boot code")]
    [InlineData("empty", "less than one sector|is not an image")]
    [InlineData("cd", "CD alone")]
    [InlineData("itself", "image itself")]
    public async Task What_makes_no_stick_is_refused(string kind, string words)
    {
        using var scratch = new Scratch();
        var stick = Blank(scratch, kind == "small" ? 20 : 160);
        var image = scratch["image"];
        switch (kind)
        {
            case "text": await File.WriteAllTextAsync(image, new string('x', MiB)); break;
            case "empty": await File.WriteAllTextAsync(image, ""); break;
            case "cd":
                var bytes = await File.ReadAllBytesAsync(RescueMachine.Image);
                bytes.AsSpan(0, 512).Clear();
                await File.WriteAllBytesAsync(image, bytes);
                break;
            default: image = kind == "itself" ? stick : RescueMachine.Image; break;
        }

        if (kind == "itself") File.Copy(RescueMachine.Image, stick, overwrite: true);
        var before = await Images.Hash(stick);
        var (code, _, error) = await KeelProgram.Run("stick", "write", image, stick, "--erase", "stick.img");
        code.ShouldBeOneOf(2, 3, 4);
        words.Split('|').Any(word => error.ReplaceLineEndings(" ").Replace("       ", " ", StringComparison.Ordinal)
            .Contains(word, StringComparison.Ordinal)).ShouldBeTrue(error);
        (await Images.Hash(stick)).ShouldBe(before);
    }

    [Theory]
    [InlineData("hard link")]
    [InlineData("link")]
    [InlineData("chain")]
    public async Task The_image_itself_is_refused_by_any_other_name(string kind)
    {
        using var scratch = new Scratch();
        File.Copy(RescueMachine.Image, scratch["image"]);
        var before = await Images.Hash(scratch["image"]);
        if (kind == "hard link") await Tool.MustAgree("ln", scratch["image"], scratch["stick.img"]);
        else File.CreateSymbolicLink(scratch["stick.img"], kind == "link" ? "image" : "middle");
        if (kind == "chain") File.CreateSymbolicLink(scratch["middle"], "../" + Path.GetFileName(scratch.Folder) + "/image");
        var (code, _, error) = await KeelProgram.Run(
            "stick",
            "write",
            scratch["image"],
            scratch["stick.img"],
            "--erase",
            "stick.img");
        code.ShouldBe(2);
        error.ShouldContain("It is the image itself");
        (await Images.Hash(scratch["image"])).ShouldBe(before);
    }

    [Fact]
    public async Task What_is_not_shown_to_be_a_stick_is_not_taken_for_one()
    {
        using var scratch = new Scratch();
        var stick = Blank(scratch, 160);
        var (made, loop, _) = await Tool.Run("losetup", "--find", "--show", stick);
        Assert.SkipWhen(made != 0, "no loop devices here");
        try
        {
            var before = await Images.Hash(stick);
            await Tool.Run("mknod", scratch["alias"], "b", "7", loop.Trim()[^1..]);
            foreach (var name in File.Exists(scratch["alias"]) ? (string[])[loop.Trim(), scratch["alias"]] : [loop.Trim()])
            {
                var word = Path.GetFileName(name);
                var (code, _, error) = await KeelProgram.Run("stick", "write", RescueMachine.Image, name, "--erase", word);
                code.ShouldBe(4, error);
                error.ShouldContain("nothing shows that it is a");
            }

            (await Images.Hash(stick)).ShouldBe(before);
        }
        finally
        {
            await Tool.Run("losetup", "--detach", loop.Trim());
        }
    }

    [Fact]
    public async Task The_medium_has_all_that_its_prompt_and_its_page_name()
    {
        var root = Path.Combine(KeelProgram.Root(), "dist", "medium", "root");
        var prompt = await File.ReadAllTextAsync(Path.Combine(root, "etc", "prompt"), TestContext.Current.CancellationToken);
        var page = await File.ReadAllTextAsync(
            Path.Combine(KeelProgram.Root(), "docs", "stick.md"),
            TestContext.Current.CancellationToken);
        var at = page.IndexOf("There, `man keel`", StringComparison.Ordinal);
        at.ShouldBeGreaterThan(0);
        var named = Named().Matches(page[at..page.IndexOf("\n\n", at, StringComparison.Ordinal)])
            .Select(match => match.Groups["name"].Value)
            .Concat(prompt.Split('\n').SelectMany(line => line.Split("  ", StringSplitOptions.RemoveEmptyEntries))
                .SelectMany(words => words.Split(", "))
                .Select(words => words.Trim().Split(' ')[0])
                .Where(word => word.Length > 0 && !prompt.Contains($"  {word} of ", StringComparison.Ordinal)))
            .Distinct()
            .ToList();
        string[] words = ["man", "keyboard", "sfdisk", "smartctl", "fsck.fat", "ntfsfix", "mount", "ddrescue", "reboot"];
        foreach (var name in words)
        {
            named.ShouldContain(name);
            string[] places = [Path.Combine(root, "bin", name), Path.Combine(root, "sbin", name)];
            places.Any(place => Path.Exists(place) || new FileInfo(place).LinkTarget is not null).ShouldBeTrue(name);
        }

        foreach (var name in Named().Matches(page[at..page.IndexOf("\n\n", at, StringComparison.Ordinal)])
            .Select(match => match.Groups["name"].Value))
        {
            string[] places = [Path.Combine(root, "bin", name), Path.Combine(root, "sbin", name)];
            places.Any(place => Path.Exists(place) || new FileInfo(place).LinkTarget is not null).ShouldBeTrue(name);
        }

        foreach (var script in (string[])["bin/man", "bin/keyboard", "sbin/session", "sbin/start", "lib/keel-medium"])
            await Tool.MustAgree("sh", "-n", Path.Combine(root, script));
        File.Exists(Path.Combine(root, "usr/share/man/keel")).ShouldBeTrue();
    }

    [System.Text.RegularExpressions.GeneratedRegex("`(?<name>[a-z0-9.]+)[^`]*`")]
    private static partial System.Text.RegularExpressions.Regex Named();

    private static Task<string> Write(string stick, string? image = null) =>
        KeelProgram.Must(0, "stick", "write", image ?? RescueMachine.Image, stick, "--erase", "stick.img");

    private static string Blank(Scratch scratch, int mebibytes)
    {
        using var file = File.Create(scratch["stick.img"]);
        file.SetLength((long)mebibytes * MiB);
        return scratch["stick.img"];
    }

    private static async Task Flip(string path, long at)
    {
        await using var file = File.Open(path, FileMode.Open);
        file.Position = at;
        var was = file.ReadByte();
        file.Position = at;
        file.WriteByte((byte)~was);
    }

    /// <summary>An image with a table of the old kind, boot code, and nothing for UEFI.</summary>
    private static async Task Other(Scratch scratch, string image)
    {
        await using (var file = File.Create(image)) file.SetLength(20 * MiB);
        await Tool.MustAgree("sh", "-c", $"echo '2048,32768,83,*' | sfdisk --quiet '{image}'");
        await Tool.MustAgree("dd", "if=/usr/lib/syslinux/mbr/mbr.bin", $"of={image}", "conv=notrunc", "status=none");
        await Flip(image, 5 * MiB);
        File.Exists(scratch["other.img"]).ShouldBeTrue();
    }

    /// <summary>The partition as a file by itself.</summary>
    private static async Task<string> LogOf(string stick, int number)
    {
        var start = (await Images.StartOf(stick, number)).ToString(CultureInfo.InvariantCulture);
        await Tool.MustAgree("dd", $"if={stick}", $"of={stick}.log", "bs=1M", $"skip={start}", "iflag=skip_bytes", "status=none");
        var table = await Tool.MustAgree("sfdisk", "--json", stick);
        var size = JsonDocument.Parse(table).RootElement.GetProperty("partitiontable").GetProperty("partitions")[number - 1]
            .GetProperty("size").GetInt64() * 512;
        await using var file = File.Open($"{stick}.log", FileMode.Open);
        file.SetLength(size);
        return $"{stick}.log";
    }
}

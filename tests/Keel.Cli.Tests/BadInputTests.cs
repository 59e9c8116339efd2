using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Whatever is named as a disk: a clear sentence, the right exit code, no trace.</summary>
public sealed class BadInputTests
{
    public static TheoryData<string, int> Nonsense => new()
    {
        { "empty", 3 },
        { "511", 3 },
        { "text", 3 },
        { "folder", 3 },
        { "missing", 3 },
        { "pipe", 3 },
        { "zeros", 1 },
        { "random", 1 },
        { "half", 1 },
        { "volume", 1 }
    };

    [Theory, MemberData(nameof(Nonsense))]
    public async Task Nonsense_is_named_for_what_it_is(string kind, int exitCode)
    {
        using var scratch = new Scratch();
        var path = await Make(kind, scratch);
        foreach (var command in (string[])["diagnose", "survey", "mend"])
        {
            var (code, output, error) = await KeelProgram.Run(command, path, "--logbook", scratch["logbook"]);
            code.ShouldBe(command == "survey" && kind == "half" ? 0 : exitCode, $"{command} {kind}: {output}{error}");
            (output + error).ShouldNotContain(" at Keel.");
            (output + error).Length.ShouldBeGreaterThan(40);
        }

        Directory.Exists(scratch["logbook"]).ShouldBeFalse();
    }

    [Theory]
    [InlineData("bios", 100)]
    [InlineData("uefi", 60)]
    [InlineData("uefi", 300)]
    public async Task An_image_that_is_cut_short_is_told_and_not_written(string firmware, int lengthMiB)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "none", firmware);
        await disk.Make();
        await using (var image = File.Open(disk.Path, FileMode.Open)) image.SetLength(lengthMiB * 1024L * 1024);
        var before = await disk.Hash();
        var found = await disk.Json(1, "diagnose");
        found.GetProperty("stopsAt").GetString().ShouldBe("disk-layout");
        found.GetProperty("left").ToString().ShouldContain("cut short");
        await KeelProgram.Run("mend", disk.Path, "--yes", "--logbook", scratch["logbook"]);
        (await disk.Hash()).ShouldBe(before);
        foreach (var command in (string[])["files list", "services list", "store list"])
        {
            var (code, output, error) = await KeelProgram.Run([.. command.Split(' '), disk.Path]);
            code.ShouldBeInRange(0, 3, output + error);
            output.ShouldNotContain("as they should be", customMessage: command + lengthMiB);
        }
    }

    [Theory]
    [InlineData("files list", "empty", 3)]
    [InlineData("files list", "text", 3)]
    [InlineData("files renew", "zeros", 4)]
    [InlineData("files mark", "zeros", 3)]
    [InlineData("services list", "random", 3)]
    [InlineData("services list", "folder", 3)]
    [InlineData("drill check", "zeros", 1)]
    [InlineData("drill check", "missing", 3)]
    [InlineData("firmware list", "folder", 3)]
    public async Task Nonsense_is_told_by_every_command(string command, string kind, int exitCode)
    {
        using var scratch = new Scratch();
        var path = await Make(kind, scratch);
        string[] more = command == "files mark" ? [@"\bootmgr"] : [];
        var (code, output, error) = await KeelProgram.Run([
            .. command.Split(' '),
            path,
            .. more,
            "--logbook",
            scratch["logbook"]
        ]);
        code.ShouldBe(exitCode, output + error);
        (output + error).Length.ShouldBeGreaterThan(40);
        (output + error).ShouldNotContain(" at Keel.");
    }

    [Fact]
    public async Task Text_from_a_disk_cannot_reach_the_terminal_as_it_is()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        // The title in the store, as UTF-16, becomes escape sequences.
        var script =
            $"import sys;p='{disk}';d=open(p,'rb').read();a='Windows 10 Pro'.encode('utf-16-le');b='\\x1b[31mdows\\u202e "
                + "Pro'.encode('utf-16-le');assert len(a)==len(b);open(p,'wb').write(d.replace(a,b))";
        await Tool.MustAgree("python3", "-c", script);
        var (_, output, _) = await KeelProgram.Run("diagnose", disk);
        output.ShouldContain(@"\u{1b}[31mdows\u{202e} Pro");
        output.ShouldNotContain("\u001b");
        output.ShouldNotContain("\u202e");
    }

    private static async Task<string> Make(string kind, Scratch scratch)
    {
        var path = scratch[kind];
        switch (kind)
        {
            case "empty":
                await File.WriteAllBytesAsync(path, []);
                break;
            case "511":
                await File.WriteAllBytesAsync(path, new byte[511]);
                break;
            case "text":
                await File.WriteAllTextAsync(path, string.Join('\n', Enumerable.Repeat("07:15 Brackwater - North Quay", 100)));
                break;
            case "folder":
                Directory.CreateDirectory(path);
                break;
            case "pipe":
                await Tool.MustAgree("mkfifo", path);
                break;
            case "zeros":
                await File.WriteAllBytesAsync(path, new byte[4 * 1024 * 1024]);
                break;
            case "random":
                var bytes = new byte[4 * 1024 * 1024];
                new Random(7).NextBytes(bytes);
                await File.WriteAllBytesAsync(path, bytes);
                break;
            case "half":
                await KeelProgram.Practice(scratch, "none", kind);
                await using (var image = File.Open(path, FileMode.Open)) image.SetLength(100 * 1024 * 1024);
                break;
            case "volume":
                await KeelProgram.Practice(scratch, "none", "whole");
                Images.Part(scratch["whole"], scratch, kind, 1, 64);
                break;
            default:
                break;
        }

        return path;
    }
}

using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Whatever is named as a disk: a clear sentence, the right exit code, no trace.</summary>
public sealed class BadInputTests
{
    public static TheoryData<string, int> Nonsense => new()
    {
        { "empty", 3 }, { "511", 3 }, { "text", 1 }, { "folder", 3 }, { "missing", 3 }, { "pipe", 3 }, { "zeros", 1 }, { "random", 1 }, { "half", 1 }, { "volume", 1 }
    };

    [Theory, MemberData(nameof(Nonsense))]
    public async Task Nonsense_is_named_for_what_it_is(string kind, int exitCode)
    {
        using var scratch = new Scratch();
        var path = await Make(kind, scratch);
        foreach (var command in (string[])["diagnose", "survey", "mend"])
        {
            var (code, output, error) = await KeelProgram.Run(command, path, "--logbook", scratch["logbook"]);
            code.ShouldBe(command == "survey" && exitCode == 1 ? 0 : exitCode, $"{command} {kind}: {output}{error}");
            (output + error).ShouldNotContain(" at Keel.");
            (output + error).Length.ShouldBeGreaterThan(40);
        }

        Directory.Exists(scratch["logbook"]).ShouldBeFalse();
    }

    [Fact]
    public async Task Text_from_a_disk_cannot_reach_the_terminal_as_it_is()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        // The title in the store, as UTF-16, becomes escape sequences.
        var script = $"import sys;p='{disk}';d=open(p,'rb').read();a='Windows 10 Pro'.encode('utf-16-le');b='\\x1b[31mdows\\u202e Pro'.encode('utf-16-le');assert len(a)==len(b);open(p,'wb').write(d.replace(a,b))";
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

using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// Pipes, devices, links and folders in the place of files: nothing waits, nothing grows, nothing that was not named is read or
/// written.
/// </summary>
public sealed class SpecialFileTests
{
    private static readonly string[] Kinds = ["pipe", "zero", "link", "folder", "nothing", "socket"];

    public static TheoryData<string, string> Inputs
    {
        get
        {
            var data = new TheoryData<string, string>();
            string[] commands =
            [
                "survey IN",
                "diagnose IN",
                "diagnose DISK --with IN",
                "diagnose DISK --variables IN",
                "store list --file IN",
                "store load DISK IN --preview",
                "files put DISK IN \\Users --preview",
                "files renew DISK --from IN --preview",
                "round --list IN --out OUT",
                "round IN --out OUT",
                "logbook --logbook IN",
                "stick check IN",
                "stick write IN OUT",
                "drill check DISK --answer IN"
            ];
            foreach (var command in commands)
            {
                foreach (var kind in Kinds) data.Add(command, kind);
            }

            return data;
        }
    }

    [Theory, MemberData(nameof(Inputs))]
    public async Task What_is_no_file_is_refused_at_once(string command, string kind)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        await Make(scratch, kind, scratch["in"]);
        string[] words = [.. command.Split(' ').Select(word => word switch
        {
            "IN" => scratch["in"],
            "OUT" => scratch["out"],
            "DISK" => disk,
            _ => word
        })];
        string[] limits = ["-c", "ulimit -v 8000000; exec timeout 20 \"$@\"", "sh", KeelProgram.Path];
        var (code, output, error) = await Tool.Run("sh", [.. limits, .. words]);
        code.ShouldBeInRange(0, 5, $"{command} with a {kind} says:\n{output}{error}");
        (output + error).ShouldNotContain("not made for");
    }

    [Theory]
    [InlineData("pipe")]
    [InlineData("zero")]
    [InlineData("link")]
    public async Task A_variable_that_is_no_file_is_told(string kind)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "none", "uefi");
        await disk.Make();
        await Make(scratch, kind, Path.Combine(disk.Variables, "Boot0007-8be4df61-93ca-11d2-aa0d-00e098032b8c"));
        var (code, _, error) = await Tool.Run(
            "timeout",
            ["20", KeelProgram.Path, "firmware", "list", disk.Path, "--variables", disk.Variables]);
        code.ShouldBe(3);
        System.Text.RegularExpressions.Regex.Replace(error, @"\s+", " ").ShouldContain("is no variable of a firmware");
    }

    [Fact]
    public async Task Nothing_outside_of_a_medium_is_copied_in()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "manager-missing");
        Directory.CreateDirectory(scratch["medium/boot"]);
        await File.WriteAllTextAsync(scratch["secret"], "the ledger of the night ferry", TestContext.Current.CancellationToken);
        File.CreateSymbolicLink(scratch["medium/bootmgr"], scratch["secret"]);
        await KeelProgram.Run("files", "renew", disk, "--from", scratch["medium"], "--yes", "--logbook", scratch["logbook"]);
        (await File.ReadAllBytesAsync(disk, TestContext.Current.CancellationToken)).AsSpan()
            .IndexOf("the ledger of the night ferry"u8).ShouldBe(-1);
    }

    [Theory]
    [InlineData("store save DISK OUT")]
    [InlineData("report DISK --out OUT.md")]
    [InlineData("drill new none --out OUT")]
    [InlineData("drill new random --out OUT")]
    [InlineData("files take DISK \\bootmgr OUT")]
    public async Task An_output_follows_no_link_and_replaces_nothing(string command)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        await File.WriteAllTextAsync(scratch["precious"], "precious", TestContext.Current.CancellationToken);
        string[] words = [.. command.Split(' ').Select(word =>
            word.Replace("DISK", disk, StringComparison.Ordinal).Replace("OUT", scratch["out"], StringComparison.Ordinal))];
        var target = words.First(word => word.StartsWith(scratch["out"], StringComparison.Ordinal));
        foreach (var suffix in (string[])["", ".new", ".sealed", ".volume"])
            File.CreateSymbolicLink(target + suffix, suffix.Length == 0 ? scratch["dangling"] : scratch["precious"]);
        await KeelProgram.Run(words);
        (await File.ReadAllTextAsync(scratch["precious"], TestContext.Current.CancellationToken)).ShouldBe("precious");
        if (!command.StartsWith("store", StringComparison.Ordinal)) File.Exists(scratch["dangling"]).ShouldBeFalse();
    }

    [Fact]
    public async Task What_holds_secrets_is_its_owners_alone()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        await KeelProgram.Must(0, "store", "save", disk, scratch["store"]);
        await KeelProgram.Must(0, "files", "take", disk, @"2:\Windows\System32\config\SYSTEM", scratch["hive"]);
        await KeelProgram.Must(0, "report", disk, "--out", scratch["report.html"]);
        const UnixFileMode owner = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        foreach (
            var name in (string[])["store", "hive", "report.html"]) File.GetUnixFileMode(scratch[name]).ShouldBe(owner, name);
    }

    private static async Task Make(Scratch scratch, string kind, string path)
    {
        switch (kind)
        {
            case "pipe":
                await Tool.MustAgree("mkfifo", path);
                break;
            case "zero":
                File.CreateSymbolicLink(path, "/dev/zero");
                break;
            case "link":
                File.CreateSymbolicLink(path, path);
                break;
            case "folder":
                Directory.CreateDirectory(path);
                break;
            case "socket":
                await Tool.MustAgree("python3", "-c", "import socket,sys; socket.socket(socket.AF_UNIX).bind(sys.argv[1])", path);
                break;
            default:
                await File.WriteAllBytesAsync(path, [], TestContext.Current.CancellationToken);
                break;
        }
    }
}

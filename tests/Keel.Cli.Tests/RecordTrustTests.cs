using System.Text;
using System.Text.Json.Nodes;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>A logbook can come from a disk that somebody else made: it writes nothing that was not agreed to.</summary>
public sealed class RecordTrustTests
{
    [Fact]
    public async Task A_record_from_elsewhere_is_told_and_never_taken_by_yes_alone()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var before = await Sum(disk);
        await Keel(scratch, "home", 0, "mend", disk, "--yes");
        (await Keel(scratch, "home", 0, "logbook", disk)).ShouldNotContain("from elsewhere");
        (await Keel(scratch, "other", 0, "logbook", disk)).ShouldContain("from elsewhere");
        var json = JsonNode.Parse(await Keel(scratch, "other", 0, "logbook", disk, "--format", "json"))!;
        json["fromElsewhere"]!.AsArray().ShouldHaveSingleItem();
        var after = await Sum(disk);
        (await Run(scratch, "other", "undo", disk, "--yes")).Error.ShouldContain("--even-from-elsewhere");
        (await Run(scratch, "other", "undo", disk, "--yes")).ExitCode.ShouldBe(4);
        (await Sum(disk)).ShouldBe(after);
        await Keel(scratch, "other", 0, "undo", disk, "--yes", "--even-from-elsewhere");
        (await Sum(disk)).ShouldBe(before);
    }

    [Theory]
    [InlineData("before.bin")]
    [InlineData("after.bin")]
    [InlineData("record.json")]
    public async Task A_record_that_was_changed_is_no_longer_own(string file)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        await Keel(scratch, "home", 0, "mend", disk, "--yes");
        var path = Directory.GetFiles(scratch["logbook"], file, SearchOption.AllDirectories).ShouldHaveSingleItem();
        var bytes = await File.ReadAllBytesAsync(path, TestContext.Current.CancellationToken);
        bytes[^3] ^= 1;
        await File.WriteAllBytesAsync(path, bytes, TestContext.Current.CancellationToken);
        var after = await Sum(disk);
        (await Run(scratch, "home", "undo", disk, "--yes")).ExitCode.ShouldNotBe(0);
        (await Sum(disk)).ShouldBe(after);
    }

    [Fact]
    public async Task Variables_go_only_into_a_folder_that_was_named()
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "firmware-entry-missing", "uefi");
        await disk.Make();
        await Keel(scratch, "home", 0, "mend", disk.Path, "--variables", disk.Variables, "--yes");
        var (code, _, error) = await Run(scratch, "home", "undo", disk.Path, "--yes");
        code.ShouldBe(2);
        error.ShouldContain($"--variables {disk.Variables}");
        Directory.GetFiles(disk.Variables, "Boot0000*").ShouldHaveSingleItem();
        await Keel(scratch, "home", 0, "undo", disk.Path, "--variables", disk.Variables, "--yes");
        Directory.GetFiles(disk.Variables, "Boot0000*").ShouldBeEmpty();
    }

    [Fact]
    public async Task A_disk_that_only_the_record_names_is_asked_about()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing", "a.img");
        var other = await KeelProgram.Practice(scratch, "store-missing", "b.img");
        await Keel(scratch, "home", 0, "mend", disk, "--yes");
        await Keel(scratch, "home", 0, "mend", other, "--yes");
        await Join(scratch);
        var before = (await Sum(disk), await Sum(other));
        string[] agreed = ["--yes", "--even-from-elsewhere"];
        var (code, _, error) = await Run(scratch, "home", ["undo", disk, .. agreed]);
        code.ShouldBe(4);
        error.ShouldContain($"--with {other}");
        (await Sum(disk), await Sum(other)).ShouldBe(before);
        await Keel(scratch, "home", 0, ["undo", disk, "--with", other, .. agreed]);
        (await Sum(disk)).ShouldNotBe(before.Item1);
        (await Sum(other)).ShouldNotBe(before.Item2);
    }

    /// <summary>Makes one record of two: of a machine with two disks.</summary>
    private static async Task Join(Scratch scratch)
    {
        var folders = Directory.GetDirectories(scratch["logbook/records"]).Order(StringComparer.Ordinal).ToList();
        foreach (var name in (string[])["before.bin", "after.bin"])
        {
            await using var all = new FileStream(Path.Combine(folders[0], name), FileMode.Append);
            all.Write(await File.ReadAllBytesAsync(Path.Combine(folders[1], name), TestContext.Current.CancellationToken));
        }

        var documents = new List<JsonNode>();
        foreach (var folder in folders)
            documents.Add(JsonNode.Parse(
                await File.ReadAllTextAsync(Path.Combine(folder, "record.json"), TestContext.Current.CancellationToken))!);
        var disks = documents[0].AsObject().First(
            pair => pair.Key.Equals("disks", StringComparison.OrdinalIgnoreCase)).Value!.AsArray();
        var more = documents[1].AsObject().First(
            pair => pair.Key.Equals("disks", StringComparison.OrdinalIgnoreCase)).Value!.AsArray();
        disks.Add(more[0]!.DeepClone());
        var bytes = Encoding.UTF8.GetBytes(documents[0].ToJsonString());
        await File.WriteAllBytesAsync(Path.Combine(folders[0], "record.json"), bytes, TestContext.Current.CancellationToken);
        var body = $"keel record 2\ndocument {Core.Blocks.Checksum.Of(bytes)}\npart done\npart done\n";
        var sum = Core.Blocks.Checksum.Of(Encoding.ASCII.GetBytes(body));
        await File.WriteAllTextAsync(
            Path.Combine(folders[0], "state"),
            $"{body}sum {sum}\n",
            TestContext.Current.CancellationToken);
        Directory.Delete(folders[1], recursive: true);
    }

    [Theory]
    [InlineData("state")]
    [InlineData("record.json")]
    [InlineData("seal")]
    [InlineData("before.bin")]
    public async Task A_file_of_a_record_that_is_none_holds_nothing_up(string name)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        await Keel(scratch, "home", 0, "mend", disk, "--yes");
        var path = Directory.GetFiles(scratch["logbook"], name, SearchOption.AllDirectories).ShouldHaveSingleItem();
        string[] link = ["ln", "-s"];
        string[][] makes = [["mkfifo", path], [.. link, "/dev/zero", path], [.. link, "/etc/passwd", path], ["mkdir", path]];
        foreach (var make in makes)
        {
            if (Directory.Exists(path)) Directory.Delete(path);
            else File.Delete(path);
            await Tool.MustAgree(make[0], make[1..]);
            var (code, _, _) = await Tool.Run(
                "timeout",
                ["20", KeelProgram.Path, "undo", disk, "--yes", "--logbook", scratch["logbook"]]);
            code.ShouldBeInRange(2, 5, string.Join(' ', make));
        }
    }

    private static async Task<string> Sum(string path) =>
        Convert.ToHexString(System.Security.Cryptography.SHA256.HashData(await File.ReadAllBytesAsync(path)));

    /// <summary>keel as on a computer of its own: what seals records is kept in its state folder.</summary>
    private static Task<(
        int ExitCode,
        string Output,
        string Error)> Run(Scratch scratch, string computer, params string[] words) =>
        Tool.Run("env", [$"XDG_STATE_HOME={scratch[computer]}", KeelProgram.Path, .. words, "--logbook", scratch["logbook"]]);

    private static async Task<string> Keel(Scratch scratch, string computer, int exitCode, params string[] words)
    {
        var (code, output, error) = await Run(scratch, computer, words);
        code.ShouldBe(exitCode, output + error);
        return output;
    }
}

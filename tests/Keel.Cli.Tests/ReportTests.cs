using System.Text.Json;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>The page for the ticket: whole, harmless whatever stands on the disk, and true to what was written.</summary>
public sealed class ReportTests
{
    private const string Hostile = "<script>alert(1)</script> \"till\" & 'quay'";

    [Fact]
    public async Task A_repair_gives_a_page_that_tells_of_before_and_after()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        string[] report = ["--report", scratch["ticket.html"], "--ticket", "BF-1041"];
        await KeelProgram.Must(0, ["mend", disk, "--yes", .. report, Logbook, scratch["log"]]);
        var page = await Read(scratch["ticket.html"]);
        await Tool.MustAgree("tidy", "-q", "-e", scratch["ticket.html"]);
        page.ShouldContain("Ticket BF-1041");
        page.ShouldContain("it was mended, and should start again");
        page.ShouldContain("store: stopped here; mended");
        page.ShouldContain("store-missing");
        page.ShouldContain($"keel undo {disk}");
        page.ShouldNotContain("<script");
        page.ShouldNotContain("http");
        page.ShouldNotContain(" src=");
    }

    [Theory]
    [InlineData("none", 0, "Nothing is wrong with what this machine starts through.")]
    [InlineData("store-missing", 1, "This machine does not start, and can be mended.")]
    [InlineData("start-driver-key-missing", 1, "This machine does not start, and keel can&#39;t mend it.")]
    public async Task The_verdict_stands_first(string fault, int exitCode, string verdict)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, fault);
        var before = await Images.Hash(disk);
        await KeelProgram.Must(exitCode, "report", disk, "--out", scratch["a.html"], Logbook, scratch["log"]);
        (await Read(scratch["a.html"])).ShouldContain($"<h1>{verdict}</h1>");
        await Tool.MustAgree("tidy", "-q", "-e", scratch["a.html"]);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task What_was_mended_before_is_told_with_its_record()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        await KeelProgram.Must(0, "mend", disk, "--yes", Logbook, scratch["log"]);
        await KeelProgram.Must(0, "report", disk, "--out", scratch["a.json"], Logbook, scratch["log"]);
        await KeelProgram.Must(0, "report", disk, "--out", scratch["a.md"], Logbook, scratch["log"]);
        var report = JsonDocument.Parse(await Read(scratch["a.json"])).RootElement;
        var repair = report.GetProperty("repairs")[0];
        repair.GetProperty("state").GetString().ShouldBe("done");
        repair.GetProperty("steps")[0].GetProperty("finding").GetString().ShouldBe("store-missing");
        report.GetProperty("before").GetProperty("verdict").GetString().ShouldBe("sound");
        var text = await Read(scratch["a.md"]);
        text.ShouldStartWith("# ");
        text.ShouldContain(repair.GetProperty("id").GetString()!);
        text.ShouldContain($"    keel undo {disk}");
    }

    [Theory]
    [InlineData("a.html")]
    [InlineData("a.md")]
    public async Task Text_from_the_disk_does_nothing_on_the_page(string name)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        await KeelProgram.Must(0, "store", "change", disk, "1", $"title={Hostile}", "--yes", Logbook, scratch["log"]);
        await KeelProgram.Must(0, "report", disk, "--out", scratch[name], Logbook, scratch["log"], "--ticket", Hostile);
        var page = await Read(scratch[name]);
        page.ShouldContain("alert");
        page.Replace(@"\<", "", StringComparison.Ordinal).ShouldNotContain("<script");
        if (name == "a.html") await Tool.MustAgree("tidy", "-q", "-e", scratch[name]);
    }

    [Theory]
    [InlineData("there.html", "already there")]
    [InlineData("a.txt", "no form of report")]
    [InlineData("nowhere/a.html", "no folder")]
    public async Task A_file_that_can_not_be_written_is_told_before_anything_is_done(string name, string why)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var before = await Images.Hash(disk);
        await File.WriteAllTextAsync(scratch["there.html"], "mine", TestContext.Current.CancellationToken);
        var (code, _, error) = await KeelProgram.Run(
            "mend", disk, "--yes", "--report", Path.Combine(scratch.Folder, name), Logbook, scratch["log"]);
        code.ShouldBe(2);
        error.ReplaceLineEndings(" ").ShouldContain(why);
        (await Images.Hash(disk)).ShouldBe(before);
        (await Read(scratch["there.html"])).ShouldBe("mine");
    }

    private const string Logbook = "--logbook";

    private static Task<string> Read(string path) => File.ReadAllTextAsync(path, TestContext.Current.CancellationToken);
}

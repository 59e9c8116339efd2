using System.Text;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Updates are listed out of a hive that another program wrote.</summary>
public sealed class UpdatesCommandTests
{
    private const string Software = @"\Windows\System32\config\SOFTWARE";

    [Fact]
    public async Task Updates_stand_in_a_list_with_what_waits_in_its_first_line()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        (await KeelProgram.Must(0, "updates", "list", disk)).ShouldContain("lists no updates");
        await KeelProgram.Must(0, "files", "take", disk, Software, scratch["SOFTWARE"]);
        var script = new StringBuilder("cd \\Microsoft\\Windows\\CurrentVersion\n");
        foreach (var key in (string[])["Component Based Servicing", "Packages"]) script.Append($"add {key}\ncd {key}\n");
        Add(script, "Package_for_KB5034441~31bf3856ad364e35~amd64~~19041.3920.1.0", 0x70);
        Add(script, "Package_for_KB5034763~31bf3856ad364e35~amd64~~19041.4046.1.6", 0x60);
        Add(script, "Package_for_KB5033372~31bf3856ad364e35~amd64~~19041.3803.1.7", 0x50);
        await File.WriteAllTextAsync(scratch["script"], script.Append("commit\nquit\n").ToString());
        await Tool.MustAgree("hivexsh", "-w", "-f", scratch["script"], scratch["SOFTWARE"]);
        await KeelProgram.Must(0, "files", "put", disk, scratch["SOFTWARE"], Software, "--yes", "--logbook", scratch["logbook"]);

        var lines = (await KeelProgram.Must(0, "updates", "list", disk)).Split('\n');
        string.Join(' ', lines.Take(2)).ShouldContain("3 updates, 1 of them waits for the next start.");
        lines.ShouldContain(line => line.Contains("KB5034763  to be installed", StringComparison.Ordinal));
        lines.ShouldNotContain(line => line.Contains("KB5033372", StringComparison.Ordinal));
        (await KeelProgram.Must(0, "updates", "list", disk, "--all")).ShouldContain("KB5033372  superseded");
        var document = await KeelProgram.Json(0, "updates", "list", disk);
        document.GetProperty("updates").GetArrayLength().ShouldBe(3);
        document.GetProperty("pendingOperations").GetBoolean().ShouldBeFalse();
    }

    private static void Add(StringBuilder script, string name, uint state) =>
        script.Append($"add {name}\ncd {name}\nsetval 1\nCurrentState\ndword:{state}\ncd ..\n");
}

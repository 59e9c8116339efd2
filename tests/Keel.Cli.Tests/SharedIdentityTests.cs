using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// Machines from one master image share signature, GUIDs and serial numbers: what was done to one of them is never told of
/// another.
/// </summary>
public sealed class SharedIdentityTests
{
    [Fact]
    public async Task A_repair_of_a_twin_is_one_line_and_never_in_a_report()
    {
        using var scratch = new Scratch();
        var mended = await KeelProgram.Practice(scratch, "store-missing");
        var untouched = scratch["twin.img"];
        File.Copy(mended, untouched);
        await Keel(scratch, 0, "mend", mended, "--yes");

        (await Keel(scratch, 0, "logbook", untouched)).ShouldContain(
            "Not listed: 1 repair of other disks with the same identity");
        (await Keel(scratch, 1, "report", untouched, "--out", scratch["twin.md"])).ShouldNotContain("repair");
        (await File.ReadAllTextAsync(scratch["twin.md"], TestContext.Current.CancellationToken)).ShouldNotContain("worked on");
        var (code, _, error) = await Run(scratch, "undo", untouched, "--yes");
        code.ShouldBe(2, error);
        (await Keel(scratch, 0, "logbook", mended)).ShouldContain("1 repair in the logbook");
        await Keel(scratch, 0, "undo", mended, "--yes");
        (await Keel(scratch, 0, "logbook", mended)).ShouldContain("taken back");
        (await Keel(scratch, 0, "logbook", untouched)).ShouldContain("No repairs");
    }

    [Fact]
    public async Task Each_of_many_twins_has_its_own_repairs()
    {
        using var scratch = new Scratch();
        var master = await KeelProgram.Practice(scratch, "none");
        var twins = Enumerable.Range(0, 5).Select(number => scratch[$"twin{number}.img"]).ToList();
        foreach (var twin in twins)
        {
            File.Copy(master, twin);
            await Keel(scratch, 1, "mbr", "activate", twin, "--volume", "2", "--yes");
        }

        foreach (var twin in twins)
        {
            var list = await Keel(scratch, 0, "logbook", twin);
            list.ShouldContain("1 repair in the logbook");
            list.ShouldContain(Path.GetFileName(twin));
        }

        var (code, _, error) = await Run(scratch, "undo", twins[2], "--preview");
        code.ShouldBe(0, error);
        error.ShouldNotContain("Repairs that were not taken back");
    }

    [Fact]
    public async Task A_twin_of_a_disk_whose_repair_was_cut_off_is_not_stopped_by_it()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var twin = scratch["twin.img"];
        File.Copy(disk, twin);
        await Keel(scratch, 0, "mend", disk, "--yes");
        await CutOff(scratch);
        (await Run(scratch, "diagnose", disk)).ExitCode.ShouldBe(5);
        var (code, output, _) = await Run(scratch, "diagnose", twin);
        code.ShouldBe(1);
        output.ShouldNotContain("CUT OFF");
        await Keel(scratch, 0, "mend", twin, "--yes");
    }

    /// <summary>Makes the only record one that was cut off: its state says "writing", with the right sum.</summary>
    private static async Task CutOff(Scratch scratch)
    {
        var state = Directory.GetFiles(scratch["logbook"], "state", SearchOption.AllDirectories).ShouldHaveSingleItem();
        var text = await File.ReadAllTextAsync(state, TestContext.Current.CancellationToken);
        var body = text[..text.LastIndexOf("sum ", StringComparison.Ordinal)].Replace(
            "part done",
            "part writing",
            StringComparison.Ordinal);
        var sum = Core.Blocks.Checksum.Of(System.Text.Encoding.ASCII.GetBytes(body));
        await File.WriteAllTextAsync(state, $"{body}sum {sum}\n", TestContext.Current.CancellationToken);
    }

    private static Task<(int ExitCode, string Output, string Error)> Run(Scratch scratch, params string[] words) =>
        KeelProgram.Run([.. words, "--logbook", scratch["logbook"]]);

    private static Task<string> Keel(Scratch scratch, int exitCode, params string[] words) =>
        KeelProgram.Must(exitCode, [.. words, "--logbook", scratch["logbook"]]);
}

using System.Text.Json;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>boot.ini, single files and programs, as they are typed: written, judged by others, taken back to the byte.</summary>
public sealed class HandCommandTests
{
    [Fact]
    public async Task Boot_ini_is_changed_line_by_line_and_taken_back()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "boot-list-missing");
        await Do(scratch, disk, "mend DISK");
        var before = await Images.Hash(disk);
        await Do(scratch, disk, @"bootini add DISK C:\OLDBOOT.DOS --title Earlier");
        await Do(scratch, disk, @"bootini add DISK 2:\WINDOWS --title Safe --switches /safeboot:minimal");
        await Do(scratch, disk, "bootini prefer DISK Safe");
        await Do(scratch, disk, "bootini change DISK Earlier --title Old");
        await Do(scratch, disk, "bootini wait DISK -- -1");
        var list = await KeelProgram.Json(0, "bootini", "list", disk);
        list.GetProperty("wait").GetInt32().ShouldBe(-1);
        list.GetProperty("lines").EnumerateArray()
            .Select(line => (line.GetProperty("title").GetString(), line.GetProperty("preferred").GetBoolean()))
            .ShouldBe([("Safe", true), ("Microsoft Windows XP", false), ("Old", false)]);
        (await KeelProgram.Json(1, "bootini", "check", disk)).GetProperty("wrong").GetArrayLength().ShouldBe(1);
        await Do(scratch, disk, "bootini drop DISK Old");
        await KeelProgram.Must(0, "bootini", "check", disk);
        await Tool.MustAgree("ntfsfix", "-n", Images.Part(disk, scratch, "system", 1, 64));
        await UndoAll(scratch, disk, 6);
        (await Images.Hash(disk)).ShouldBe(before);
        (await Emulator.Reaches(disk)).ShouldBeTrue();
    }

    [Theory]
    [InlineData("bootini list DISK", 2)]
    [InlineData("bootini prefer DISK 1 --yes", 2)]
    [InlineData("bootini rebuild DISK --yes", 4)]
    [InlineData("bootini add DISK 9 --yes", 1)]
    public async Task A_machine_without_it_is_told_so(string command, int exitCode)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var (code, output, error) = await KeelProgram.Run(Words(command, disk));
        code.ShouldBeGreaterThan(0, $"{exitCode}: {output}{error}");
        error.ShouldStartWith("keel: ");
    }

    [Fact]
    public async Task Older_states_are_listed_looked_into_and_taken_from()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "driver-snapshot");
        var before = await Images.Hash(disk);
        var list = await KeelProgram.Json(0, "snapshots", "list", disk);
        list.GetProperty("volumes")[0].GetProperty("snapshots").EnumerateArray()
            .Select(one => (one.GetProperty("number").GetInt32(), one.GetProperty("cause").GetString()))
            .ShouldBe([(1, "restorepoint"), (2, "restorepoint")]);
        (await KeelProgram.Must(0, "snapshots", "look", disk, "1", @"\Windows\System32\drivers")).ShouldContain("disk.sys");
        (await KeelProgram.Must(0, "files", "look", disk, @"\Windows\System32\drivers")).ShouldNotContain("disk.sys");
        await KeelProgram.Must(0, "snapshots", "take", disk, "1", @"\Windows\System32\drivers\disk.sys", scratch["disk.sys"]);
        new FileInfo(scratch["disk.sys"]).Length.ShouldBeGreaterThan(1000);
        (await KeelProgram.Run("snapshots", "look", disk, "3")).Error.ShouldContain("numbers 1 to 2");
        (await KeelProgram.Run("snapshots", "look", disk, "1", @"\absent")).ExitCode.ShouldBe(3);
        (await KeelProgram.Run("snapshots", "list", disk, "--volume", "9")).ExitCode.ShouldBeGreaterThan(0);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task What_a_medium_packs_is_unpacked_on_its_way()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        await File.WriteAllTextAsync(scratch["chart.bin"], "depths of the approach", TestContext.Current.CancellationToken);
        await Tool.MustAgree("gcab", "-c", "-z", scratch["CHART.BI_"], scratch["chart.bin"]);
        (await KeelProgram.Run("files", "put", disk, scratch["CHART.BI_"], @"\Users", "--yes")).Error.ShouldContain("packed");
        await Do(scratch, disk, $@"files put DISK {scratch["CHART.BI_"]} \Users\chart.bin");
        await KeelProgram.Must(0, "files", "take", disk, @"\Users\chart.bin", scratch["out.bin"]);
        var taken = await File.ReadAllTextAsync(scratch["out.bin"], TestContext.Current.CancellationToken);
        taken.ShouldBe("depths of the approach");
    }

    [Fact]
    public async Task An_image_of_a_medium_gives_what_an_older_machine_lacks()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "detect-missing");
        Directory.CreateDirectory(scratch["medium"]);
        await KeelProgram.Must(
            0, "files", "take", disk, @"\WINDOWS\ServicePackFiles\i386", Path.Combine(scratch["medium"], "I386"));
        var plain = Path.Combine(scratch["medium"], "I386", "NTDETECT.COM");
        await Tool.MustAgree("gcab", "-c", "-z", Path.Combine(scratch["medium"], "I386", "NTDETECT.CO_"), plain);
        File.Delete(plain);
        await Tool.MustAgree("xorriso", "-as", "mkisofs", "-quiet", "-J", "-o", scratch["medium.iso"], scratch["medium"]);
        await Do(scratch, disk, $"files renew DISK --from {scratch["medium.iso"]}");
        (await KeelProgram.Run("diagnose", disk)).ExitCode.ShouldBe(0);
        (await Emulator.Reaches(disk)).ShouldBeTrue();
    }

    [Fact]
    public async Task Files_go_in_and_out_and_others_agree()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var before = await Images.Hash(disk);
        var bytes = new byte[100_000];
        new Random(9).NextBytes(bytes);
        await File.WriteAllBytesAsync(scratch["chart.bin"], bytes, TestContext.Current.CancellationToken);
        await Do(scratch, disk, $@"files put DISK {scratch["chart.bin"]} \Users\purser");
        await Do(scratch, disk, @"files rename DISK \Users\purser\chart.bin sea_chart.bin");
        await KeelProgram.Must(0, "files", "take", disk, @"\Users\purser\sea_chart.bin", scratch["out.bin"]);
        (await File.ReadAllBytesAsync(
            scratch["out.bin"],
            TestContext.Current.CancellationToken)).SequenceEqual(bytes).ShouldBeTrue();
        var windows = Images.Part(disk, scratch, "windows", 65, 256);
        await Tool.MustAgree("ntfsfix", "-n", windows);
        await Tool.MustAgree("sh", "-c", $"ntfscat -f {windows} Users/purser/sea_chart.bin | cmp - {scratch["chart.bin"]}");
        await Do(scratch, disk, @"files drop DISK \Users\purser\sea_chart.bin --erase");
        await UndoAll(scratch, disk, 3);
        (await Images.Hash(disk)).ShouldBe(before);
        (await KeelProgram.Run("files", "take", disk, @"\Users", scratch["out.bin"])).ExitCode.ShouldBe(2, "something is there");
    }

    [Fact]
    public async Task A_folder_is_looked_at_with_all_that_is_known_of_it()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var tops = await KeelProgram.Json(0, "files", "look", disk);
        tops.GetProperty("folders").EnumerateArray()
            .Select(folder => folder.GetProperty("roles")[0].GetString()).ShouldBe(["system", "windows"]);
        var folder = (await KeelProgram.Json(0, "files", "look", disk, @"2:\windows\system32")).GetProperty("folders")[0];
        var kernel = folder.GetProperty("files").EnumerateArray()
            .First(file => file.GetProperty("name").GetString() == "ntoskrnl.exe");
        kernel.GetProperty("version").GetString().ShouldBe("10.0.19045.1");
        kernel.GetProperty("isFolder").GetBoolean().ShouldBeFalse();
    }

    /// <summary>The culprit is found start by start, and the hive stays one that others read.</summary>
    [Fact]
    public async Task Halving_finds_the_program_and_undo_takes_it_back()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var before = await Images.Hash(disk);
        await Do(scratch, disk, "programs halve DISK");
        var off = Off(await KeelProgram.Json(0, "programs", "list", disk));
        off.ShouldBe(["Tide clock", "Ticket printer"]);
        (await KeelProgram.Run("programs", "halve", disk, "--yes", "--logbook", scratch["logbook"])).ExitCode.ShouldBe(2);
        await Do(scratch, disk, "programs halve DISK --started yes");
        await Do(scratch, disk, "programs halve DISK --started no");
        var (_, _, found) = await KeelProgram.Run(
            "programs", "halve", disk, "--yes", "--logbook", scratch["logbook"], "--started", "yes");
        found.ShouldContain("Found: Ticket printer");
        Off(await KeelProgram.Json(0, "programs", "list", disk)).ShouldBe(["Ticket printer"]);
        var windows = Images.Part(disk, scratch, "windows", 65, 256);
        await Tool.MustAgree("sh", "-c", $"ntfscat -f {windows} Windows/System32/config/SOFTWARE > {scratch["software"]}");
        await Tool.MustAgree("regfinfo", scratch["software"]);
        (await Tool.MustAgree("hivexml", scratch["software"])).ShouldContain("Tide clock");
        await UndoAll(scratch, disk, 3);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    private static async Task UndoAll(Scratch scratch, string disk, int count)
    {
        for (var number = 0; number < count; number++)
            await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", scratch["logbook"]);
    }

    private static string[] Off(JsonElement list) =>
        [.. list.GetProperty("programs").EnumerateArray()
            .Where(program => !program.GetProperty("on").GetBoolean())
            .Select(program => program.GetProperty("name").GetString()!)];

    private static async Task Do(Scratch scratch, string disk, string command)
    {
        var words = Words(command, disk).ToList();
        var options = words.IndexOf("--");
        words.InsertRange(options < 0 ? words.Count : options, ["--yes", "--logbook", scratch["logbook"]]);
        await KeelProgram.Must(0, [.. words]);
    }

    private static string[] Words(string command, string disk) =>
        [.. command.Split(' ').Select(word => word.Replace("DISK", disk, StringComparison.Ordinal))];
}

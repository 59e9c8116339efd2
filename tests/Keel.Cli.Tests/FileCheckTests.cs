using System.Buffers.Binary;
using System.Text.Json;
using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// Files of Windows held against what their maker signed; osslsigncode agrees, and copies are proven before they are taken.
/// </summary>
public sealed class FileCheckTests
{
    private const string Kernel = @"\Windows\System32\ntoskrnl.exe", Layer = @"\Windows\System32\hal.dll";
    private const string Catalog = "Windows/System32/CatRoot/{F750E6C3-38EE-11D1-85E5-00C04FC295EE}/Windows-of-the-Line.cat";

    [Theory]
    [InlineData("start")]
    [InlineData("system")]
    [InlineData("all")]
    public async Task On_a_sound_machine_all_is_as_signed(string scope)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var said = await KeelProgram.Must(0, "files", "check", disk, "--scope", scope);
        said.ShouldStartWith("AS SIGNED: ");
        var result = await KeelProgram.Json(0, "files", "check", disk, "--scope", scope);
        result.GetProperty("checked").GetInt32().ShouldBeGreaterThan(40);
        Verdicts(result, "altered").ShouldBeEmpty();
        if (scope == "all") result.GetProperty("differences").GetInt32().ShouldBe(1);
    }

    /// <summary>The checksum of a program is put right by whoever alters it; what was signed is not.</summary>
    [Fact]
    public async Task A_kernel_that_was_altered_quietly_is_found_and_mended_from_a_proven_copy()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        PutQuietly(disk, Kernel);
        var before = await Images.Hash(disk);
        (await KeelProgram.Must(1, "diagnose", disk)).ShouldStartWith("DOUBTFUL at kernel-files");
        var said = await KeelProgram.Must(1, "files", "check", disk);
        said.ShouldStartWith($"ALTERED: {Kernel} is not what its maker signed.");
        said.ShouldContain("--mend");
        (await IsListed(disk, scratch, Kernel)).ShouldBeFalse();
        (await IsListed(disk, scratch, Layer)).ShouldBeTrue();

        string[] log = ["--logbook", scratch["logbook"]];
        await KeelProgram.Must(0, ["files", "check", disk, "--mend", "--yes", .. log]);
        (await KeelProgram.Must(0, "files", "check", disk)).ShouldStartWith("AS SIGNED");
        (await IsListed(disk, scratch, Kernel)).ShouldBeTrue();
        await KeelProgram.Must(0, ["undo", disk, "--yes", .. log]);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task Where_the_machine_has_no_copy_one_is_taken_from_what_is_named_if_it_is_proven()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        Directory.CreateDirectory(scratch["medium/Windows/System32"]);
        await File.WriteAllBytesAsync(scratch["medium/Windows/System32/ntoskrnl.exe"], Read(disk, Kernel));
        Change(disk, files =>
        {
            foreach (var component in files.List(@"\Windows\WinSxS").Select(one => $@"\Windows\WinSxS\{one.Name}\ntoskrnl.exe"))
            {
                if (files.FileExists(component)) files.Delete(component);
            }
        });
        PutQuietly(disk, Kernel, isAltered: bytes => bytes.AsSpan(0x3000, 64).Fill(0xEE));
        var refused = await KeelProgram.Run("files", "check", disk, "--mend", "--yes", "--logbook", scratch["logbook"]);
        refused.ExitCode.ShouldBe(4, refused.Error);

        var altered = Read(disk, Kernel);
        Directory.CreateDirectory(scratch["wrong"]);
        await File.WriteAllBytesAsync(scratch["wrong/ntoskrnl.exe"], altered);
        string[] rest = ["--yes", "--logbook", scratch["logbook"]];
        (await KeelProgram.Run(["files", "check", disk, "--mend", "--from", scratch["wrong"], .. rest])).ExitCode.ShouldBe(4);
        await KeelProgram.Must(0, ["files", "check", disk, "--mend", "--from", scratch["medium"], .. rest]);
        (await KeelProgram.Must(0, "files", "check", disk)).ShouldStartWith("AS SIGNED");
    }

    [Fact]
    public async Task Without_catalogs_nothing_is_called_altered()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        Change(disk, files =>
        {
            const string folder = @"\Windows\System32\CatRoot\{F750E6C3-38EE-11D1-85E5-00C04FC295EE}";
            foreach (var catalog in files.List(folder)) files.Delete($@"{folder}\{catalog.Name}");
        });
        var result = await KeelProgram.Json(0, "files", "check", disk);
        Verdicts(result, "unknown").Count.ShouldBeGreaterThan(40);
        (await KeelProgram.Must(0, "files", "check", disk)).ShouldContain("nothing is known to be altered");
    }

    [Fact]
    public async Task Hostile_catalogs_end_nothing()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var chance = new Random(4);
        Change(disk, files =>
        {
            const string folder = @"\Windows\System32\CatRoot\{F750E6C3-38EE-11D1-85E5-00C04FC295EE}";
            var real = files.ReadFile($@"{folder}\Windows-of-the-Line.cat");
            for (var number = 0; number < 40; number++)
            {
                var bytes = real.ToArray();
                for (var change = 0; change < 6; change++) bytes[chance.Next(bytes.Length)] = (byte)chance.Next(256);
                var length = number % 4 == 0 ? chance.Next(bytes.Length) : bytes.Length;
                files.WriteFile($@"{folder}\a{number:00}.cat", bytes.AsSpan(0, length));
            }
        });
        (await KeelProgram.Must(0, "files", "check", disk)).ShouldStartWith("AS SIGNED: all");
    }

    [Theory]
    [InlineData("volume-encrypted", 3, "--unlock -")]
    [InlineData("store-missing", 0, "AS SIGNED")]
    public async Task A_machine_that_is_not_whole_is_checked_as_far_as_can_be(string fault, int code, string words)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, fault);
        var (exitCode, output, error) = await KeelProgram.Run("files", "check", disk);
        exitCode.ShouldBe(code, error);
        (output + error).ShouldContain(words);
    }

    private static List<string> Verdicts(JsonElement result, string verdict) =>
        [.. result.GetProperty("files").EnumerateArray()
            .Where(file => file.GetProperty("verdict").GetString() == verdict)
            .Select(file => file.GetProperty("path").GetString()!)];

    /// <summary>What osslsigncode says: whether the catalog lists the file as it is.</summary>
    private static async Task<bool> IsListed(string disk, Scratch scratch, string path)
    {
        var volume = Images.Part(disk, scratch, "windows.volume", 65, 256);
        await Tool.MustAgree("sh", "-c", $"ntfscat -f {volume} '{Catalog}' > {scratch["the.cat"]}");
        var place = path.Replace('\\', '/').TrimStart('/');
        await Tool.MustAgree("sh", "-c", $"ntfscat -f {volume} '{place}' > {scratch["the.file"]}");
        string[] verify = ["verify", "-catalog", scratch["the.cat"], "-in", scratch["the.file"]];
        var (_, output, error) = await Tool.Run("osslsigncode", verify);
        return (output + error).Contains("Calculated message digest", StringComparison.Ordinal);    // only of a listed file
    }

    private static byte[] Read(string disk, string path)
    {
        using var machine = Machine.Open(disk);
        return machine.Installations[0].Volume.Files!.ReadFile(path);
    }

    private static void Change(string disk, Action<IVolume> change) =>
        PracticeDisk.Change(disk, machine => machine.Installations[0].Volume.Edit(change));

    /// <summary>Alters a program, and puts its checksum right. Its second name in the component store stays as it was.</summary>
    private static void PutQuietly(string disk, string path, Action<byte[]>? isAltered = null) => Change(disk, files =>
    {
        var bytes = files.ReadFile(path);
        (isAltered ?? (all => all[0x3000] ^= 0x40))(bytes);
        var checksumAt = BinaryPrimitives.ReadInt32LittleEndian(bytes.AsSpan(0x3C)) + 24 + 64;
        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(checksumAt), 0);
        uint sum = 0;
        for (var at = 0; at < bytes.Length; at += 2)
        {
            sum += at + 1 < bytes.Length ? BinaryPrimitives.ReadUInt16LittleEndian(bytes.AsSpan(at)) : bytes[at];
            sum = (sum & 0xFFFF) + (sum >> 16);
        }

        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(checksumAt), sum + (uint)bytes.Length);
        files.Delete(path);
        files.WriteFile(path, bytes);
    });
}

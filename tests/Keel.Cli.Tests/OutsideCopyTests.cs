using System.Buffers.Binary;
using Keel.Core.Drills;
using Keel.Core.Volumes;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// Copies from outside of a Windows: its recovery image, images of files on a medium (made by another program), folders. Only
/// what is proven and of the same build is taken; another revision only when asked for.
/// </summary>
public sealed class OutsideCopyTests
{
    private const string Fault = "kernel-only-on-medium", Kernel = "ntoskrnl.exe";

    [Theory]
    [InlineData("--compress=LZX")]
    [InlineData("--compress=XPRESS")]
    [InlineData("--compress=none")]
    [InlineData("--solid")]
    public async Task A_kernel_comes_out_of_an_image_that_another_program_made(string form)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, Fault);
        var image = await Captured(scratch, disk, form);
        var before = await Images.Hash(disk);
        var said = await KeelProgram.Must(1, "mend", disk, "--preview", "--from", image);
        said.ShouldContain("Replace ntoskrnl.exe by a copy from outside of this Windows.");
        said.ReplaceLineEndings("").Replace("  ", "", StringComparison.Ordinal).ShouldContain($"--from {image}");
        await KeelProgram.Must(0, "mend", disk, "--from", image, "--yes", "--logbook", scratch["logbook"]);
        await KeelProgram.Must(0, "files", "take", disk, $@"\Windows\System32\{Kernel}", scratch["taken"]);
        await Tool.MustAgree("cmp", scratch["taken"], $"{scratch["tree"]}/Windows/System32/{Kernel}");
        await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", scratch["logbook"]);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task Another_revision_is_taken_only_when_asked_for_and_another_build_never()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, Fault);
        await Extract(scratch, disk);
        var kernel = $"{scratch["tree"]}/Windows/System32/{Kernel}";
        var contents = await File.ReadAllBytesAsync(kernel);
        await Revise(scratch, kernel, contents, build: 19045, revision: 7);
        var image = await Capture(scratch, "--compress=LZX");
        var refused = (await KeelProgram.Must(1, "mend", disk, "--preview", "--from", image)).ReplaceLineEndings(" ");
        refused.ShouldContain("--other-revision");
        refused.ShouldContain("10.0.19045.7");
        (await KeelProgram.Run("mend", disk, "--yes", "--from", image, "--logbook", scratch["logbook"])).ExitCode.ShouldBe(1);
        var taken = await KeelProgram.Must(1, "mend", disk, "--preview", "--from", image, "--other-revision");
        taken.ShouldContain("of another revision than this Windows");

        // The files of this very Windows say the build that it was switched on from.
        await Revise(scratch, kernel, contents, build: 19041, revision: 1);
        var older = await Capture(scratch, "--compress=LZX");
        (await KeelProgram.Must(1, "mend", disk, "--preview", "--from", older)).ShouldContain("copy from outside");

        await Revise(scratch, kernel, contents, build: 22631, revision: 1);
        var other = await Capture(scratch, "--compress=LZX");
        (await KeelProgram.Must(1, "mend", disk, "--preview", "--from", other, "--other-revision"))
            .ShouldNotContain("copy from outside");
    }

    /// <summary>Nothing that is not as it was made is offered, however well it looks.</summary>
    [Fact]
    public async Task A_damaged_copy_is_not_offered_nor_a_link_followed()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, Fault);
        await Extract(scratch, disk);
        var kernel = $"{scratch["tree"]}/Windows/System32/{Kernel}";
        var contents = await File.ReadAllBytesAsync(kernel);
        contents[contents.Length / 2] ^= 0x40;
        await File.WriteAllBytesAsync(kernel, contents);
        var damaged = await Capture(scratch, "--compress=LZX");
        (await KeelProgram.Must(1, "mend", disk, "--preview", "--from", damaged)).ShouldNotContain("copy from outside");

        contents[contents.Length / 2] ^= 0x40;
        await File.WriteAllBytesAsync(scratch["elsewhere.exe"], contents);
        File.Delete(kernel);
        File.CreateSymbolicLink(kernel, scratch["elsewhere.exe"]);
        var linked = await Capture(scratch, "--compress=LZX");
        (await KeelProgram.Must(1, "mend", disk, "--preview", "--from", linked)).ShouldNotContain("copy from outside");
    }

    [Fact]
    public async Task What_is_no_whole_image_is_said_before_anything_else()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, Fault);
        var image = await Captured(scratch, disk, "--solid");
        var whole = await File.ReadAllBytesAsync(image);
        await File.WriteAllBytesAsync(scratch["cut.esd"], whole[..(whole.Length / 2)]);
        await File.WriteAllTextAsync(scratch["text.wim"], "no image at all");
        (string Name, string Why)[] nonsense =
            [("cut.esd", "libwim says"), ("text.wim", "can't"), ("none.wim", "is not there")];
        foreach (var (name, why) in nonsense)
        {
            var (code, output, error) = await KeelProgram.Run("mend", disk, "--preview", "--from", scratch[name]);
            code.ShouldBeOneOf(2, 3);
            output.ShouldBeEmpty();
            error.ShouldContain(why);
        }

        // Damage within is met where the file is taken out, or proven not to matter.
        var random = new Random(3);
        for (var round = 0; round < 12; round++)
        {
            var hostile = whole.ToArray();
            for (var count = 0; count < 20; count++) hostile[random.Next(208, hostile.Length)] = (byte)random.Next(256);
            await File.WriteAllBytesAsync(scratch["hostile.esd"], hostile);
            var (code, _, error) = await KeelProgram.Run("mend", disk, "--preview", "--from", scratch["hostile.esd"]);
            code.ShouldBeOneOf(0, 1, 2, 3);
            error.ShouldNotContain("not made for");
        }
    }

    [Fact]
    public async Task The_file_check_takes_copies_out_of_images_too()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "kernel-only-on-medium");
        var medium = disk + ".medium";
        await KeelProgram.Must(0, "mend", disk, "--from", medium, "--yes", "--logbook", scratch["logbook"]);
        (await KeelProgram.Must(0, "files", "check", disk)).ShouldStartWith("AS SIGNED");
        PracticeDisk.Change(disk, machine => machine.Installations[0].Volume.Edit(files =>
        {
            var bytes = files.ReadFile($@"\Windows\System32\{Kernel}");
            bytes[^300] ^= 1;
            files.WriteFile($@"\Windows\System32\{Kernel}", bytes);
        }));
        var said = await KeelProgram.Must(1, "files", "check", disk, "--from", medium);
        said.ShouldContain("install.wim");
        await KeelProgram.Must(0, "files", "check", disk, "--mend", "--from", medium, "--yes", "--logbook", scratch["logbook"]);
        (await KeelProgram.Must(0, "files", "check", disk)).ShouldStartWith("AS SIGNED");
    }

    private static async Task<string> Captured(Scratch scratch, string disk, string form)
    {
        await Extract(scratch, disk);
        return await Capture(scratch, form);
    }

    /// <summary>The files of the practice medium, taken out by another program.</summary>
    private static Task<string> Extract(Scratch scratch, string disk) =>
        Tool.MustAgree("wimlib-imagex", "apply", $"{disk}.medium/sources/install.wim", "1", scratch["tree"], "--quiet");

    private static async Task<string> Capture(Scratch scratch, string form)
    {
        var image = scratch[$"{Guid.NewGuid():N}.wim"];
        await Tool.MustAgree("wimlib-imagex", "capture", scratch["tree"], image, "Brackwater", form, "--quiet");
        return image;
    }

    /// <summary>A program of another version, signed by its maker, as a medium of another month has it.</summary>
    private static async Task Revise(Scratch scratch, string path, byte[] program, ushort build, ushort revision)
    {
        var bytes = program.ToArray();
        var at = bytes.AsSpan().IndexOf((ReadOnlySpan<byte>)[0xBD, 0x04, 0xEF, 0xFE]);       // VS_FIXEDFILEINFO.dwSignature
        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(at + 12), ((uint)build << 16) | revision);
        var plain = scratch["plain.exe"];
        await File.WriteAllBytesAsync(plain, bytes);
        File.Delete(path);
        var pem = Path.Combine(KeelProgram.Root(), "src", "Keel.Core", "Drills", "practice-signing.pem");
        await Tool.MustAgree(
            "osslsigncode", "sign", "-h", "sha256", "-certs", pem, "-key", pem, "-in", plain, "-out", path);
    }
}

using System.Diagnostics;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// Programs and libraries that keel needs: they end with it, are taken from the system's folders, and are missed aloud.
/// </summary>
public sealed class HelperTests
{
    [Fact]
    public async Task A_helper_ends_with_keel_however_that_ends()
    {
        using var scratch = new Scratch();
        var raw = await KeelProgram.Practice(scratch, "store-missing");
        await Tool.MustAgree("qemu-img", "convert", "-O", "qcow2", raw, scratch["disk.qcow2"]);
        Directory.CreateDirectory(scratch["tmp"]);
        using var keel = Process.Start(new ProcessStartInfo(
            "script",
            ["-qec", $"TMPDIR={scratch["tmp"]} {KeelProgram.Path} mend {scratch["disk.qcow2"]}", "/dev/null"])
        {
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            UseShellExecute = false
        })!;
        await Until(() => Running(scratch["disk.qcow2"], "qemu-nbd"), "the helper begins");
        Directory.GetDirectories(scratch["tmp"]).ShouldHaveSingleItem();
        await Tool.Run("pkill", "-9", "-f", $"^{KeelProgram.Path} mend {scratch["disk.qcow2"]}");
        await Until(async () => !await Running(scratch["disk.qcow2"], "qemu-nbd"), "the helper ends");
        await Until(() => Task.FromResult(Directory.GetDirectories(scratch["tmp"]).Length == 0), "its folder goes");
        keel.Kill(entireProcessTree: true);
    }

    [Fact]
    public async Task A_helper_is_not_taken_from_the_folder_that_somebody_stands_in()
    {
        Assert.SkipUnless(Environment.IsPrivilegedProcess, "PATH counts for everybody but root");
        using var scratch = new Scratch();
        var raw = await KeelProgram.Practice(scratch, "none");
        await Tool.MustAgree("qemu-img", "convert", "-O", "qcow2", raw, scratch["disk.qcow2"]);
        foreach (var name in (string[])["qemu-nbd", "mkntfs", "setsid"])
        {
            await File.WriteAllTextAsync(
                scratch[name],
                $"#!/bin/sh\ntouch {scratch["PWNED"]}\n",
                TestContext.Current.CancellationToken);
            File.SetUnixFileMode(scratch[name], UnixFileMode.UserRead | UnixFileMode.UserExecute);
        }

        foreach (var command in (string[])["survey disk.qcow2", "drill new none --out fresh.img"])
            await Tool.MustAgree(
                "sh",
                "-c",
                $"cd {scratch.Folder} && PATH=.:{scratch.Folder}:$PATH {KeelProgram.Path} {command}");
        File.Exists(scratch["PWNED"]).ShouldBeFalse();
    }

    [Theory]
    [InlineData("diagnose DISK")]
    [InlineData("survey DISK")]
    [InlineData("mend DISK --yes")]
    [InlineData("round DISK --out OUT")]
    public async Task Without_the_library_of_ntfs_nothing_is_judged(string command)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var words = command
            .Replace("DISK", disk, StringComparison.Ordinal)
            .Replace("OUT", scratch["out"], StringComparison.Ordinal);
        const string found = "$(find /usr/lib /lib -name 'libntfs-3g.so*' -type f)";
        const string hide = $"for f in {found}; do mount --bind /dev/null $f || exit 77; done; ";
        var (code, output, error) = await Tool.Run("unshare", "-m", "sh", "-c", $"{hide} exec {KeelProgram.Path} {words}");
        Assert.SkipWhen(code is 77 or 1 && error.Contains("unshare", StringComparison.Ordinal), "nothing can be mounted here");
        code.ShouldBe(3, output + error);
        error.ShouldContain("apt install libntfs-3g89");
        output.ShouldNotContain("BROKEN");
    }

    [Theory]
    [InlineData("<&-")]
    [InlineData(">&-")]
    [InlineData("2>&-")]
    [InlineData("<&- >&- 2>&-")]
    public async Task Closed_standard_streams_are_no_exception_and_no_disk_gets_what_is_printed(string closed)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var other = scratch["other.img"];
        File.Copy(disk, other);
        var (code, _, error) = await Tool.Run(
            "sh",
            "-c",
            $"{KeelProgram.Path} mend {disk} --yes --logbook {scratch["logbook"]} {closed}");
        code.ShouldBe(0, error);
        error.ShouldNotContain("not made for");
        await KeelProgram.Must(0, "mend", other, "--yes", "--logbook", scratch["logbook2"]);
        (await KeelProgram.Json(0, "diagnose", disk)).GetProperty("verdict").GetString().ShouldBe("sound");
        await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", scratch["logbook"]);
        await KeelProgram.Must(0, "undo", other, "--yes", "--logbook", scratch["logbook2"]);
        (await Images.Hash(disk)).ShouldBe(await Images.Hash(other));
    }

    /// <summary>A server that says a byte a second would keep every single read short of its patience.</summary>
    [Theory]
    [InlineData("hello")]
    [InlineData("answer")]
    public async Task A_server_that_drips_is_left(string when)
    {
        const string server = """
            import socket, struct, sys, time
            listener = socket.socket(); listener.bind(("127.0.0.1", 0)); listener.listen()
            print(listener.getsockname()[1], flush=True)
            peer, _ = listener.accept()
            def drip(data):
                for byte in data:
                    peer.sendall(bytes([byte])); time.sleep(3)
            hello = b"NBDMAGICIHAVEOPT" + struct.pack(">H", 3)
            if sys.argv[1] == "hello": drip(hello * 20)
            peer.sendall(hello); peer.recv(4); time.sleep(0.5); peer.recv(1024)
            mark = struct.pack(">Q", 0x3e889045565a9)
            peer.sendall(mark + struct.pack(">III", 7, 3, 12) + struct.pack(">HQH", 0, 1 << 30, 1))
            peer.sendall(mark + struct.pack(">III", 7, 1, 0))
            request = peer.recv(28)
            drip(struct.pack(">II", 0x67446698, 0) + request[8:16])
            """;
        using var process = Process.Start(
            new ProcessStartInfo("python3", ["-c", server, when]) { RedirectStandardOutput = true, UseShellExecute = false })!;
        try
        {
            var port = await process.StandardOutput.ReadLineAsync(TestContext.Current.CancellationToken);
            var clock = Stopwatch.StartNew();
            var (code, _, error) = await Tool.Run("timeout", "60", KeelProgram.Path, "survey", $"nbd://127.0.0.1:{port}/");
            code.ShouldBe(3, error);
            clock.Elapsed.TotalSeconds.ShouldBeLessThan(55);
            error.ShouldContain("took longer than");
        }
        finally
        {
            process.Kill();
        }
    }

    private static async Task<bool> Running(string image, string program) =>
        (await Tool.Run("pgrep", "-f", $"{program} --socket.*{Path.GetFileName(Path.GetDirectoryName(image))}")).ExitCode == 0;

    private static async Task Until(Func<Task<bool>> isSo, string what)
    {
        for (var tries = 0; tries < 300; tries++)
        {
            if (await isSo()) return;
            await Task.Delay(50, TestContext.Current.CancellationToken);
        }

        throw new TimeoutException($"It never came to this: {what}.");
    }
}

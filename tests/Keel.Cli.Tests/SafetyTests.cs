using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Nothing is written without consent, and nothing is lost when writing is cut off.</summary>
public sealed class SafetyTests
{
    public static TheoryData<int, string> LookingCommands => new()
    {
        { 0, "survey DISK" },
        { 1, "diagnose DISK" },
        { 1, "diagnose DISK --code c0000034" },
        { 1, "mend DISK --preview" },
        { 4, "mend DISK" },
        { 0, "logbook DISK" },
        { 0, "mbr show DISK" },
        { 0, "sector show DISK" },
        { 1, "mbr rewrite DISK --preview" },
        { 1, "mbr rewrite DISK" },
        { 1, "sector rewrite DISK --preview" },
        { 1, "sector restore DISK" },
        { 4, "mbr activate DISK --volume 2" }, { 2, "undo DISK --yes" }, { 2, "logbook finish DISK" }
    };

    [Theory, MemberData(nameof(LookingCommands))]
    public async Task Looking_leaves_no_trace(int exitCode, string command)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var (hash, time) = (await Images.Hash(disk), File.GetLastWriteTimeUtc(disk));
        await KeelProgram.Must(
            exitCode,
            [.. command.Split(' ').Select(word => word == "DISK" ? disk : word), "--logbook", scratch["logbook"]]);
        (await Images.Hash(disk)).ShouldBe(hash);
        File.GetLastWriteTimeUtc(disk).ShouldBe(time);
        Directory.Exists(scratch["logbook"]).ShouldBeFalse();
    }

    [Theory]
    [InlineData("n", 4, false)]
    [InlineData("s\nn", 4, false)]
    [InlineData("x\ny", 0, true)]
    [InlineData("a", 0, true)]
    public async Task An_answer_at_the_terminal_decides(string answers, int exitCode, bool writes)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "preferred-dangling");
        var before = await Images.Hash(disk);
        var command = $"{KeelProgram.Path} mend {disk} --logbook {scratch["logbook"]}";
        var (code, output) = await Answers.Give(command, answers.Replace("\n", "\\n", StringComparison.Ordinal) + "\\n");
        code.ShouldBe(exitCode, output);
        ((await Images.Hash(disk)) != before).ShouldBe(writes, output);
        if (answers.StartsWith('s')) output.ShouldContain("bytes)");
    }

    [Fact]
    public async Task A_step_can_be_declined_and_the_others_agreed_to()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "entry-stale-volume");
        await Tool.MustAgree("bash", "-c", $"dd if=/dev/zero of={disk} bs=440 count=1 conv=notrunc status=none");
        var (_, output) = await Answers.Give(
            $"{KeelProgram.Path} mend {disk} --logbook {scratch["logbook"]}",
            "n\\ny\\ny\\n");
        output.ShouldContain("mbr-code: Write new code");
        var left = await KeelProgram.Json(1, "diagnose", disk);
        left
            .GetProperty("findings")
            .EnumerateArray()
            .Select(finding => finding.GetProperty("id").GetString())
            .ShouldBe(["mbr-code-wiped"]);
    }

    /// <summary>strace kills it at each of its writes in turn, to the logbook and to the disk.</summary>
    [Fact]
    public async Task Killed_at_any_write_a_repair_is_undone_or_finished()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-truncated");
        var old = await Images.Hash(disk);
        var states = new List<string>();
        for (var number = 1; number < 100; number++)
        {
            var logbook = scratch[$"logbook{number}"];
            var (code, output, error) = await Tool.Run(
                "strace",
                "-f", "-o", "/dev/null", "-e", "trace=pwrite64", "-e", $"inject=pwrite64:signal=KILL:when={number}",
                KeelProgram.Path, "mend", disk, "--yes", "--logbook", logbook);
            code.ShouldBeOneOf([0, 128 + 9, -1], $"{output}\n{error}");
            states.Add(await StateAfter(disk, logbook, old, finishes: number % 2 == 0));
            if (code == 0) break;
        }

        states[^1].ShouldBe("done");
        states.Count(state => state == "writing").ShouldBeGreaterThan(4);
        states.ShouldContain("none");
    }

    /// <summary>The state that a repair was left in; from it, the disk is brought back to what it was.</summary>
    private static async Task<string> StateAfter(string disk, string logbook, string old, bool finishes)
    {
        var records = (await KeelProgram.Json(0, "logbook", disk, "--logbook", logbook)).GetProperty("records");
        if (records.GetArrayLength() == 0)
        {
            (await Images.Hash(disk)).ShouldBe(old);
            return "none";
        }

        var state = records[0].GetProperty("state").GetString()!;
        if (state == "writing")
        {
            await KeelProgram.Must(5, "mend", disk, "--yes", "--logbook", logbook);
            if (finishes) await KeelProgram.Must(0, "logbook", "finish", disk, "--logbook", logbook);
        }

        if (state == "done" || finishes)
            (await KeelProgram.Json(0, "diagnose", disk)).GetProperty("verdict").GetString().ShouldBe("sound");
        await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", logbook);
        (await Images.Hash(disk)).ShouldBe(old);
        return state;
    }

    [Fact]
    public async Task Undo_refuses_where_somebody_else_has_written_since()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "mbr-code-wiped");
        await KeelProgram.Must(0, "mend", disk, "--yes", "--logbook", scratch["logbook"]);
        await Tool.MustAgree("bash", "-c", $"printf X | dd of={disk} bs=1 seek=9 conv=notrunc status=none");
        var (code, _, error) = await KeelProgram.Run("undo", disk, "--yes", "--logbook", scratch["logbook"]);
        code.ShouldBe(4);
        error.ShouldContain("byte 0");
        await KeelProgram.Must(0, "undo", disk, "--yes", "--even-if-changed", "--logbook", scratch["logbook"]);
    }

    [Fact]
    public async Task An_unclean_volume_is_mended_and_stays_marked()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var flags = new List<long>();
        await using (var image = File.Open(disk, FileMode.Open))
        {
            // Record 3, $Volume, in $MFT (cluster 4) and in its mirror (cluster 8191): the flags in its attribute 70.
            foreach (var cluster in (int[])[4, 8191])
            {
                var start = (1024 * 1024) + (cluster * 4096) + (3 * 1024);
                var record = new byte[1024];
                image.Position = start;
                image.ReadExactly(record);
                int at = BitConverter.ToUInt16(record, 0x14);
                while (BitConverter.ToUInt32(record, at) != 0x70) at += (int)BitConverter.ToUInt32(record, at + 4);
                flags.Add(start + at + BitConverter.ToUInt16(record, at + 0x14) + 10);
                image.Position = flags[^1];
                image.WriteByte(1);
            }
        }

        var (code, output, _) = await KeelProgram.Run("mend", disk, "--yes", "--logbook", scratch["logbook"]);
        code.ShouldBe(0);
        output.ShouldContain("volume 1 was not properly closed");
        var bytes = await File.ReadAllBytesAsync(disk);
        flags.ShouldAllBe(flag => bytes[flag] == 1);
    }

    [Fact]
    public async Task A_block_device_is_mended_like_an_image()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var (made, loop, _) = await Tool.Run("losetup", "--find", "--show", disk);
        Assert.SkipWhen(made != 0, "no loop devices here");
        try
        {
            (await KeelProgram.Json(0, "survey", loop.Trim())).GetProperty("disks")[0]
                .GetProperty("size")
                .GetInt64()
                .ShouldBe(new FileInfo(disk).Length);
            await KeelProgram.Must(0, "mend", loop.Trim(), "--yes", "--logbook", scratch["logbook"]);
            (await KeelProgram.Json(0, "diagnose", disk)).GetProperty("verdict").GetString().ShouldBe("sound");
            await KeelProgram.Must(0, "undo", loop.Trim(), "--yes", "--logbook", scratch["logbook"]);
        }
        finally
        {
            await Tool.Run("losetup", "--detach", loop.Trim());
        }
    }

    [Theory]
    [InlineData("mbr-code-wiped", "42")]
    [InlineData("gpt-backup-damaged", "E75CAF8F-F680-4CEE-AFA3-B001E56EFC2D")]
    public async Task A_dynamic_disk_or_storage_pool_is_not_written(string fault, string type)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, fault);
        if (type == "42")
            await Tool.MustAgree("sfdisk", "-q", "--part-type", disk, "2", type);
        else
        {
            await Tool.MustAgree(
                "bash",
                "-c",
                $"sgdisk -t 2:{type} {disk} && dd if=/dev/zero of={disk} bs=512 count=1 seek=$(( $(stat -c %s {disk}) / 512 - "
                    + "1 )) conv=notrunc status=none");
        }

        var before = await Images.Hash(disk);
        var (code, _, error) = await KeelProgram.Run("mend", disk, "--yes", "--logbook", scratch["logbook"]);
        code.ShouldBe(4);
        error.ShouldContain("not a plain disk");
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task A_disk_in_use_is_refused()
    {
        using var scratch = new Scratch();
        var (image, folder) = (scratch["disk"], scratch["mounted"]);
        var make =
            $"truncate -s 20M {image}; echo '2048,,83,*' | sfdisk -q {image}; mkdir {folder}; l=$(losetup -f --show -o 1048576 "
                + $"{image}) && mkfs.ext4 -q $l && mount $l {folder} && echo $l";
        var (made, loop, _) = await Tool.Run("bash", "-c", make);
        Assert.SkipWhen(made != 0, "nothing can be mounted here");
        try
        {
            var before = await Images.Hash(image);
            var (code, _, error) = await KeelProgram.Run("mbr", "rewrite", image, "--yes", "--logbook", scratch["logbook"]);
            code.ShouldBe(4);
            error.ShouldContain($"mounted at {folder}");
            (await Images.Hash(image)).ShouldBe(before);
        }
        finally
        {
            await Tool.Run("bash", "-c", $"umount {folder}; losetup --detach {loop.Trim()}");
        }
    }
}

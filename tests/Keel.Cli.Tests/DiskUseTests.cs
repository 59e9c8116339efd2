using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>A disk that anything uses, by whatever path, is not written; two keels never write one disk at once.</summary>
public sealed class DiskUseTests
{
    public static TheoryData<string, string> Uses => new()
    {
        // how the image is brought into use, and what keel says
        { "l=$(losetup -f --show -o 1048576 $hard) && mount -o ro $l $dir", "mounted" },
        { "l=$(losetup -f --show -o 1048576 $img) && mount -o ro $l $dir && mount --bind $dir $dir2 && umount $dir", "mounted" },
        {
            "l=$(losetup -f --show -o 1048576 $img) && unshare -m --propagation private sh -c \"mount -o ro $l $dir && touch "
                + "$ready && sleep 20\" & while [ ! -e $ready ]; do sleep 0.05; done",
            "mounted"
        },
        {
            "python3 -c \"import fcntl,time; f=open('$img','r+b'); fcntl.lockf(f,fcntl.LOCK_EX); open('$ready','w'); "
                + "time.sleep(20)\" & while [ ! -e $ready ]; do sleep 0.05; done",
            "held by python3"
        },
        {
            "python3 -c \"import fcntl,time; f=open('$img','r+b'); fcntl.flock(f,fcntl.LOCK_EX); open('$ready','w'); "
                + "time.sleep(20)\" & while [ ! -e $ready ]; do sleep 0.05; done",
            "held by python3"
        },
        {
            "l=$(losetup -f --show $img) && python3 -c \"import os,time; os.open('$l', os.O_RDWR|os.O_EXCL); "
                + "open('$ready','w'); time.sleep(20)\" & while [ ! -e $ready ]; do sleep 0.05; done",
            "use"
        }
    };

    [Theory, MemberData(nameof(Uses))]
    public async Task An_image_in_use_is_refused_and_stays(string use, string says)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var before = await Images.Hash(disk);
        var script = $"""
            img={disk}; hard={scratch["hard"]}; dir={scratch["mount"]}; dir2={scratch["mount2"]}; ready={scratch["ready"]}
            ln $img $hard; mkdir $dir $dir2
            {use} || exit 77
            {KeelProgram.Path} mend $img --yes --logbook {scratch["logbook"]} > {scratch["said"]} 2>&1
            echo $? > {scratch["code"]}
            kill %1 2>/dev/null; wait 2>/dev/null
            umount $dir2 $dir 2>/dev/null
            for l in $(losetup -j $img -O NAME -n) $(losetup -j $hard -O NAME -n); do losetup -d $l; done
            exit 0
            """;
        var (made, _, error) = await Tool.Run("bash", "-c", script);
        Assert.SkipWhen(made == 77, $"nothing can be mounted here: {error}");
        var said = await File.ReadAllTextAsync(scratch["said"], TestContext.Current.CancellationToken);
        (await File.ReadAllTextAsync(scratch["code"], TestContext.Current.CancellationToken)).Trim().ShouldBe("4", said);
        said.ShouldContain(says);
        (await Images.Hash(disk)).ShouldBe(before);
        Directory.Exists(scratch["logbook"]).ShouldBeFalse();
    }

    [Fact]
    public async Task A_read_only_device_is_refused_before_a_record_is_begun()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var (made, loop, _) = await Tool.Run("losetup", "--find", "--show", "--read-only", disk);
        Assert.SkipWhen(made != 0, "no loop devices here");
        try
        {
            var (code, output, error) = await KeelProgram.Run("mend", loop.Trim(), "--yes", "--logbook", scratch["logbook"]);
            code.ShouldBeOneOf(3, 4);
            (output + error).ShouldContain("read-only", Case.Insensitive);
            Directory.Exists(scratch["logbook"]).ShouldBeFalse();
            await KeelProgram.Must(1, "diagnose", loop.Trim(), "--logbook", scratch["logbook"]);
        }
        finally
        {
            await Tool.Run("losetup", "--detach", loop.Trim());
        }
    }

    [Fact]
    public async Task Two_keels_with_two_logbooks_leave_one_repair()
    {
        using var scratch = new Scratch();
        for (var pair = 0; pair < 12; pair++)
        {
            var disk = await KeelProgram.Practice(scratch, "store-truncated", $"disk{pair}");
            var before = await Images.Hash(disk);
            var runs = await Task.WhenAll(
                Enumerable
                    .Range(0, 2)
                    .Select(which => KeelProgram.Run("mend", disk, "--yes", "--logbook", scratch[$"logbook{pair}-{which}"])));
            (await KeelProgram.Json(0, "diagnose", disk)).GetProperty("verdict").GetString().ShouldBe("sound");
            var done = 0;
            for (var which = 0; which < 2; which++)
            {
                var records = (await KeelProgram.Json(
                    0,
                    "logbook",
                    "--logbook",
                    scratch[$"logbook{pair}-{which}"])).GetProperty("records");
                records.EnumerateArray().ShouldAllBe(record => record.GetProperty("state").GetString() == "done");
                done += records.GetArrayLength();
                if (records.GetArrayLength() == 1)
                    await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", scratch[$"logbook{pair}-{which}"]);
            }

            done.ShouldBe(1, string.Join('\n', runs.Select(run => $"{run.ExitCode} {run.Error}")));
            (await Images.Hash(disk)).ShouldBe(before);
            File.Delete(disk);
        }
    }

    [Fact]
    public async Task A_fresh_disk_of_the_same_name_gets_nothing_of_another_ones_repair()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "mbr-code-wiped");
        await KeelProgram.Must(0, "mend", disk, "--yes", "--logbook", scratch["logbook"]);
        File.Delete(disk);
        disk = await KeelProgram.Practice(scratch, "none");
        var sound = await Images.Hash(disk);
        foreach (var more in (string[][])[[], ["--even-if-changed"]])
        {
            var (code, _, error) = await KeelProgram.Run(["undo", disk, "--yes", "--logbook", scratch["logbook"], .. more]);
            code.ShouldBeOneOf(2, 4);
            error.ShouldContain("keel:");
            (await Images.Hash(disk)).ShouldBe(sound);
        }

        (await KeelProgram.Json(0, "logbook", "--logbook", scratch["logbook"])).GetProperty("records")[0]
            .GetProperty("state")
            .GetString()
            .ShouldBe("done");
    }

    [Fact]
    public async Task What_is_printed_to_take_a_repair_back_works_when_it_is_typed()
    {
        using var scratch = new Scratch();
        Directory.CreateDirectory(scratch["a folder of Purser's"]);
        var disk = scratch["a folder of Purser's/disk image with quite a long name so that the command does not fit a line.img"];
        await KeelProgram.Must(0, "drill", "new", "firmware-order-wrong+store-missing", "--firmware", "uefi", "--out", disk);
        var before = await Images.Hash(disk);
        var output = await KeelProgram.Must(
            0,
            "mend",
            disk,
            "--variables",
            disk + ".variables",
            "--yes",
            "--logbook",
            scratch["the logbook"]);
        var command = output
            .Split('\n')
            .Single(line => line.TrimStart().StartsWith("keel undo", StringComparison.Ordinal))
            .Trim();
        var (code, said, error) = await Tool.Run("bash", "-c", $"{KeelProgram.Path}{command["keel".Length..]} --yes");
        code.ShouldBe(0, said + error);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task A_moved_image_is_still_its_repairs_own_and_a_copy_is_asked_about()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var before = await Images.Hash(disk);
        await KeelProgram.Must(0, "mend", disk, "--yes", "--logbook", scratch["logbook"]);
        File.Copy(disk, scratch["copy.img"]);
        var (code, _, error) = await KeelProgram.Run("undo", scratch["copy.img"], "--yes", "--logbook", scratch["logbook"]);
        code.ShouldBe(4);
        error.ShouldContain("--record");
        File.Move(disk, scratch["moved.img"]);
        await KeelProgram.Must(0, "undo", scratch["moved.img"], "--yes", "--logbook", scratch["logbook"]);
        (await Images.Hash(scratch["moved.img"])).ShouldBe(before);
    }
}

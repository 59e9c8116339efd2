using Keel.Core.BootCode;
using Keel.Core.BootCode.Loading;
using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Boot code is what its sources say, tells itself from others', and starts disks of every shape in QEMU.</summary>
public sealed class BootCodeTests
{
    private const int MiB = 1024 * 1024;

    [Fact]
    public async Task The_assembled_code_is_what_the_sources_give()
    {
        using var scratch = new Scratch();
        var root = AppContext.BaseDirectory;
        while (!Directory.Exists(Path.Combine(root, "boot"))) root = Path.GetDirectoryName(root)!;
        await Tool.MustAgree(Path.Combine(root, "boot", "assemble"), scratch["out"]);
        var kept = Path.Combine(root, "src", "Keel.Core", "BootCode", "Assembled");
        foreach (var file in Directory.GetFiles(scratch["out"]))
        {
            (await File.ReadAllBytesAsync(
                file)).ShouldBe(await File.ReadAllBytesAsync(Path.Combine(kept, Path.GetFileName(file))), file);
        }

        Directory.GetFiles(scratch["out"]).Length.ShouldBe(Directory.GetFiles(kept).Length);
    }

    [Theory]
    [InlineData("/usr/lib/syslinux/mbr/mbr.bin", "SYSLINUX")]
    [InlineData("/usr/lib/syslinux/mbr/gptmbr.bin", "SYSLINUX")]
    [InlineData("/usr/lib/syslinux/mbr/altmbr.bin", "SYSLINUX")]
    [InlineData("/usr/lib/grub/i386-pc/boot.img", "GRUB")]
    public void Other_loaders_are_recognised(string file, string name)
    {
        var code = new byte[440];
        File.ReadAllBytes(file).AsSpan(0, Math.Min(440, (int)new FileInfo(file).Length)).CopyTo(code);
        CodeRecognizer.OfMbr(code).ShouldBe(new CodeReading(CodeOwner.Foreign, name));
    }

    [Fact]
    public async Task A_volume_that_syslinux_was_put_on_is_recognised()
    {
        using var scratch = new Scratch();
        await File.WriteAllBytesAsync(scratch["fat"], new byte[40 * MiB]);
        await Tool.MustAgree("mkfs.fat", "-F", "32", scratch["fat"]);
        CodeRecognizer.OfBootSector(await File.ReadAllBytesAsync(scratch["fat"]), 0x5A).Owner.ShouldBe(CodeOwner.Blank);
        await Tool.MustAgree("syslinux", "--install", scratch["fat"]);
        CodeRecognizer
            .OfBootSector((await File.ReadAllBytesAsync(scratch["fat"])).AsSpan(0, 512), 0x5A)
            .ShouldBe(new CodeReading(CodeOwner.Foreign, "SYSLINUX"));
    }

    [Theory]
    [InlineData(512)]
    [InlineData(1024)]
    [InlineData(2048)]
    [InlineData(8192)]
    [InlineData(16384)]
    [InlineData(32768)]
    [InlineData(65536)]
    public async Task Ntfs_starts_with_clusters_of(int clusterBytes)
    {
        using var scratch = new Scratch();
        await Starts(StartableDisk.Ntfs(scratch, "disk", clusterBytes));
    }

    [Fact]
    public async Task Ntfs_starts_from_a_root_folder_of_many_names()
    {
        using var scratch = new Scratch();
        var disk = StartableDisk.Ntfs(scratch, "disk", fill: files =>
        {
            for (var number = 0; number < 900; number++)
                files.WriteFile($@"\{(number % 2 == 0 ? "a" : "z")} sailing list {number:0000}.txt", "x"u8);
            files.WriteFile(@"\BootMgr", StandInManager.MakeBios("10.0.1.1"));
        });
        await Starts(disk);
    }

    [Theory]
    [InlineData(4096, 4096, 500, 12, 480_000, 30)]
    [InlineData(512, 1024, 2600, 12, 300_000, 50)]
    public async Task Ntfs_starts_a_manager_in_many_pieces(
        int clusterBytes,
        int gapBytes,
        int count,
        int volumeMiB,
        int managerBytes,
        int leastPieces)
    {
        using var scratch = new Scratch();
        var manager = StandInManager.MakeBios("10.0.1.1", managerBytes);
        var disk = StartableDisk.Ntfs(
            scratch,
            "disk",
            clusterBytes,
            volumeMiB,
            prepare: files => StartableDisk.LeaveGaps(files, gapBytes, count),
            fill: files => files.WriteFile(@"\bootmgr", manager));
        var volume = scratch["volume"];
        await Tool.MustAgree("sh", "-c", $"dd if={disk} of={volume} bs=1M skip=1 count={volumeMiB} status=none");
        var map = await Tool.MustAgree("ntfscluster", "-f", "-F", "bootmgr", volume);
        map
            .Split('\n')
            .Count(line =>
                line.Split(' ', StringSplitOptions.RemoveEmptyEntries) is [_, _, var length] && int.TryParse(length, out var _))
            .ShouldBeGreaterThan(leastPieces);
        await Starts(disk);
    }

    [Fact]
    public async Task Ntfs_starts_a_manager_whose_record_overflows_into_others()
    {
        using var scratch = new Scratch();
        var disk = StartableDisk.Ntfs(
            scratch,
            "disk",
            volumeMiB: 12,
            prepare: files => StartableDisk.LeaveGaps(files, 4096, 500));
        await File.WriteAllTextAsync(
            scratch["stream"],
            "Brackwater Ferries, timetable of a quay, in a stream beside the contents");
        var volume = scratch["volume"];
        var script =
            $"dd if={disk} of={volume} bs=1M skip=1 count=12 status=none; for n in $(seq 1 30); do ntfscp -q -f -N quay$n "
                + $"{volume} {scratch["stream"]} /bootmgr || exit 1; done; dd if={volume} of={disk} bs=1M seek=1 conv=notrunc "
                + $"status=none; ntfscluster -f -F bootmgr {volume}";
        (await Tool.MustAgree("bash", "-c", script)).ShouldContain("0x20", customMessage: "an attribute list");
        await Starts(disk);
    }

    [Fact]
    public async Task Ntfs_starts_a_manager_that_fills_the_room_and_refuses_a_larger_one()
    {
        using var scratch = new Scratch();
        var largest = StandInManager.MakeBios("10.0.1.1", 519_000);
        largest.Length.ShouldBeInRange(518_000, 523_264);
        await Starts(StartableDisk.Ntfs(scratch, "fits", fill: files => files.WriteFile(@"\bootmgr", largest)));
        var larger = StartableDisk.Ntfs(
            scratch,
            "larger",
            fill: files => files.WriteFile(@"\bootmgr", StandInManager.MakeBios("10.0.1.1", 530_000)));
        (await Emulator.Start(
            larger,
            screenToSerial: true,
            until: "or empty")).ShouldContain("keel: BOOTMGR is too large or empty");
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task Ntfs_starts_with_large_records_and_a_manager_inside_its_record(bool resident)
    {
        using var scratch = new Scratch();
        var manager = resident ? StandInManager.MakeSmallest() : StandInManager.MakeBios("10.0.1.1");
        await Starts(
            StartableDisk.Ntfs(scratch, "disk", largeRecords: true, fill: files => files.WriteFile(@"\bootmgr", manager)));
    }

    [Fact]
    public async Task Ntfs_starts_beyond_one_tebibyte()
    {
        using var scratch = new Scratch();
        await Starts(StartableDisk.Ntfs(scratch, "disk", startSector: 2_200_000_000));
    }

    [Fact]
    public async Task The_drive_number_is_passed_on()
    {
        using var scratch = new Scratch();
        var second = StartableDisk.Ntfs(scratch, "second");
        // The first disk's code loads the second disk's first sector over a copy of this jump, with 81 in DL.
        byte[] chain = [
            0x31,
            0xC0,
            0x8E,
            0xD8,
            0x8E,
            0xC0,
            0x8E,
            0xD0,
            0xBC,
            0x00,
            0x7C,
            0xBE,
            0x00,
            0x7C,
            0xBF,
            0x00,
            0x60,
            0xB9,
            0x00,
            0x01,
            0xF3,
            0xA5,
            0xEA,
            0x1B,
            0x60,
            0x00,
            0x00,
            0xB8,
            0x01,
            0x02,
            0xBB,
            0x00,
            0x7C,
            0xB9,
            0x01,
            0x00,
            0xBA,
            0x81,
            0x00,
            0xCD,
            0x13,
            0xB2,
            0x81,
            0xEA,
            0x00,
            0x7C,
            0x00,
            0x00
        ];
        var first = new byte[MiB];
        chain.CopyTo(first, 0);
        (first[510], first[511]) = (0x55, 0xAA);
        await File.WriteAllBytesAsync(scratch["first"], first);
        (await Emulator.Start(
            scratch["first"],
            more: ["-drive", $"file={second},format=raw,if=ide,snapshot=on"])).ShouldContain("STAND-IN REACHED drive 81 serial ");
    }

    [Fact]
    public async Task Ntfs_code_for_the_older_loader_starts_it()
    {
        using var scratch = new Scratch();
        await Starts(
            StartableDisk.Ntfs(
                scratch,
                "disk",
                loader: LoaderKind.Nt5Loader,
                fill: files => files.WriteFile(@"\NTLDR", StandInManager.MakeBios("5.1.1.1"))));
    }

    [Theory]
    [InlineData("no-manager", "keel: BOOTMGR not found")]
    [InlineData("no-ntldr", "keel: NTLDR not found")]
    [InlineData("damaged", "keel: the file system is damaged")]
    [InlineData("sparse", "keel: BOOTMGR is compressed")]
    [InlineData("beyond", "keel: disk read error")]
    public async Task What_cannot_be_started_is_told_in_a_line_that_explain_knows(string fault, string line)
    {
        using var scratch = new Scratch();
        var disk = StartableDisk.Ntfs(
            scratch,
            "disk",
            loader: fault == "no-ntldr" ? LoaderKind.Nt5Loader : LoaderKind.BootManager,
            fill: files =>
        {
            if (fault is not ("no-manager" or "no-ntldr")) files.WriteFile(@"\bootmgr", StandInManager.MakeBios("10.0.1.1"));
        });
        await using (var image = File.Open(disk, FileMode.Open))
        {
            var volume = new byte[24 * MiB];
            image.Position = MiB;
            image.ReadExactly(volume);
            Spoil(volume, fault);
            image.Position = MiB;
            image.Write(volume);
        }

        (await Emulator.Start(disk, screenToSerial: true, until: line[^6..])).ShouldContain(line);
        if (fault != "beyond") Simulated(disk).Outcome.ShouldNotBe(LoadOutcome.Loaded);
        Codes.StartupErrors.Load().Find(line).Errors.ShouldNotBeEmpty();
    }

    [Theory]
    [InlineData(512, false)]
    [InlineData(1024, true)]
    [InlineData(4096, true)]
    [InlineData(16384, false)]
    [InlineData(32768, true)]
    public async Task Fat32_starts_with_clusters_of(int clusterBytes, bool fragmented)
    {
        using var scratch = new Scratch();
        var disk = await StartableDisk.Fat32(scratch, "disk", clusterBytes, fragmented: fragmented);
        await Tool.MustAgree(
            "sh",
            "-c",
            $"dd if={disk} of={scratch["volume"]} bs=1M skip=1 conv=sparse status=none; truncate -s -1M {scratch["volume"]}; "
                + $"fsck.fat -n {scratch["volume"]}");
        await Starts(disk);
    }

    [Theory]
    [InlineData(12, 512, false, LoaderKind.BootManager)]
    [InlineData(12, 2048, true, LoaderKind.BootManager)]
    [InlineData(12, 4096, true, LoaderKind.Nt5Loader)]
    [InlineData(16, 512, true, LoaderKind.BootManager)]
    [InlineData(16, 4096, false, LoaderKind.Nt5Loader)]
    [InlineData(16, 16384, true, LoaderKind.BootManager)]
    public async Task The_older_fats_start_from_one_sector(int bits, int clusterBytes, bool fragmented, LoaderKind loader)
    {
        using var scratch = new Scratch();
        var disk = await StartableDisk.OldFat(scratch, bits, clusterBytes, fragmented, loader);
        using (var machine = Machine.Open(disk))
        {
            var volume = machine.Volumes.Single();
            volume.Kind.ShouldBe(bits == 12 ? FileSystemKind.Fat12 : FileSystemKind.Fat16);
            BootSectorCopy.Recognize(volume.Blocks, volume.Kind)!.Owner.ShouldBe(CodeOwner.Keel);
            BootCodeLoading.Try(volume.Blocks, volume.Kind, loader)!.Outcome.ShouldBe(LoadOutcome.Loaded);
        }

        await Starts(disk);
    }

    [Fact]
    public async Task On_the_older_fats_a_missing_loader_is_told()
    {
        using var scratch = new Scratch();
        var disk = await StartableDisk.OldFat(scratch, 16, 2048, fragmented: false, LoaderKind.Nt5Loader);
        PracticeDisk.Change(
            disk,
            machine => BootSectorEditor.WriteCode(machine.Volumes.Single(), KeelBootCode.Fat16(LoaderKind.BootManager)));
        (await Emulator.Start(disk, screenToSerial: true, until: "not found")).ShouldContain("keel: not found: BOOTMGR");
    }

    [Fact]
    public async Task Fat32_code_for_the_older_loader_starts_it_and_its_absence_is_told()
    {
        using var scratch = new Scratch();
        await Starts(await StartableDisk.Fat32(scratch, "disk", 4096, LoaderKind.Nt5Loader));
        PracticeDisk.Change(
            scratch["disk"],
            machine => BootSectorEditor.WriteCode(machine.Volumes.Single(), KeelBootCode.Fat32(LoaderKind.BootManager)));
        (await Emulator.Start(
            scratch["disk"],
            screenToSerial: true,
            until: "not found")).ShouldContain("keel: BOOTMGR not found");
    }

    [Theory]
    [InlineData(true, false)]
    [InlineData(false, false)]
    [InlineData(false, true)]
    public async Task A_lost_boot_sector_comes_back_and_starts(bool fat, bool copyToo)
    {
        using var scratch = new Scratch();
        var disk = fat ? await StartableDisk.Fat32(scratch, "disk", 4096) : StartableDisk.Ntfs(scratch, "disk");
        Lose(disk, fat, copyToo);
        if (fat)
        {
            Restore(disk);
            await Starts(disk);
            Lose(disk, fat, copyToo: true);
        }

        Restore(disk);
        await Starts(disk);
        await Tool.MustAgree(
            "sh",
            "-c",
            $"dd if={disk} of={scratch["volume"]} bs=1M skip=1 conv=sparse status=none; truncate -s -1M {scratch["volume"]}; "
                + $"{(fat ? "fsck.fat" : "ntfsfix")} -n {scratch["volume"]}");
    }

    [Fact]
    public async Task Fields_that_differ_are_named()
    {
        using var scratch = new Scratch();
        foreach (var disk in (string[])[StartableDisk.Ntfs(scratch, "ntfs"), await StartableDisk.Fat32(scratch, "fat", 4096)])
        {
            using (var machine = Machines.Machine.Open(disk))
                BootSectorReport.Of(machine.Volumes.Single()).Fields.ShouldAllBe(field => !field.Differs);
            PracticeDisk.Change(disk, machine => machine.Volumes.Single().Blocks.Write(0x1A, [7, 0]));
            using (var machine = Machines.Machine.Open(disk))
                BootSectorReport
                    .Of(machine.Volumes.Single()).Fields
                    .Where(field => field.Differs)
                    .Select(field => (field.Name, field.Here))
                    .ShouldBe([("heads", "7")]);
        }
    }

    [Fact]
    public async Task What_lies_behind_the_valid_length_of_the_manager_is_loaded_as_zeros()
    {
        const int emptyBytes = 96 * 1024;
        using var scratch = new Scratch();
        byte[] manager = [.. StandInManager.MakeBios("10.0.1.1"), .. new byte[emptyBytes]];
        var whole = manager.Length / 4096 * 4096;
        manager = StandInManager.Seal(manager[..whole]);
        var disk = StartableDisk.Ntfs(scratch, "disk", fill: files => files.WriteFile(@"\bootmgr", manager));
        await ChangeVolume(disk, volume => EndValidLength(volume, whole - emptyBytes + 8192, whole));
        await Tool.MustAgree("sh", "-c", $"dd if={disk} of={scratch["volume"]} bs=1M skip=1 count=24 status=none");
        await Tool.MustAgree("sh", "-c", $"ntfscat -f {scratch["volume"]} bootmgr > {scratch["read"]}");
        (await File.ReadAllBytesAsync(scratch["read"])).ShouldBe(manager, "what others read there");
        await Starts(disk);
    }

    /// <summary>The emulator lets reads of the manager's first cluster fail, each rule once.</summary>
    [Theory]
    [InlineData(3, true)]
    [InlineData(40, false)]
    public async Task Some_failed_reads_are_tried_again_and_lasting_ones_told(int failures, bool starts)
    {
        using var scratch = new Scratch();
        var disk = StartableDisk.Ntfs(scratch, "disk");
        var sector = 0L;
        await ChangeVolume(disk, volume => sector = 2048 + (FirstByteOfManager(volume) / 512));
        var rule = $"[inject-error]\nevent = \"read_aio\"\nsector = \"{sector}\"\nerrno = \"5\"\nonce = \"on\"\n";
        await File.WriteAllTextAsync(scratch["failing"], string.Concat(Enumerable.Repeat(rule, failures)));

        var output = await Emulator.Start(
            $"blkdebug:{scratch["failing"]}:{disk}",
            screenToSerial: !starts,
            until: starts ? "serial " : "disk read error");

        output.ShouldContain(starts ? "STAND-IN REACHED drive 80 serial " : "keel: disk read error");
    }

    private static async Task ChangeVolume(string disk, Action<byte[]> change)
    {
        await using var image = File.Open(disk, FileMode.Open);
        var volume = new byte[24 * MiB];
        image.Position = MiB;
        image.ReadExactly(volume);
        change(volume);
        image.Position = MiB;
        image.Write(volume);
    }

    /// <summary>Shortens what is valid of the manager, and leaves other bytes on the disk behind it.</summary>
    private static void EndValidLength(byte[] volume, int validBytes, int wholeBytes)
    {
        const int validAt = 0x38;
        var first = FirstByteOfManager(volume);
        BitConverter.TryWriteBytes(DataAttribute(volume, mft: 16384)[validAt..], (long)validBytes);
        volume.AsSpan((int)first + validBytes, wholeBytes - validBytes).Fill(0xCC);
    }

    /// <summary>Where the first run of the manager begins, in bytes from the volume's start.</summary>
    private static long FirstByteOfManager(byte[] volume)
    {
        const int runsAt = 0x20, clusterBytes = 4096;
        var data = DataAttribute(volume, mft: 16384);
        var runs = data[BitConverter.ToUInt16(data[runsAt..])..];
        var (lengthBytes, startBytes) = (runs[0] & 15, runs[0] >> 4);
        var start = 0L;
        for (var at = startBytes; at > 0; at--) start = (start << 8) | runs[lengthBytes + at];
        return start * clusterBytes;
    }

    private static void Lose(string disk, bool fat, bool copyToo) => PracticeDisk.Change(disk, machine =>
    {
        var blocks = machine.Volumes.Single().Blocks;
        var copy = fat ? 6 * 512 : blocks.LengthBytes - 512;
        blocks.Write(0, new byte[512]);
        if (copyToo) blocks.Write(copy, new byte[512]);
    });

    private static void Restore(string disk) => PracticeDisk.Change(disk, machine =>
        Requests.BootCodeRequests.RestoreSector(machine, 1, Mending.RepairTerms.Usual).Steps.ShouldHaveSingleItem());

    private static void Spoil(byte[] volume, string fault)
    {
        var mft = 16384;
        switch (fault)
        {
            case "damaged":
                volume[mft + (5 * 1024) + 510] ^= 0xFF;
                break;
            case "sparse":
                DataAttribute(volume, mft)[0xD] |= 0x80;
                break;
            case "beyond":
                BitConverter.TryWriteBytes(volume.AsSpan(0x30), 50_000_000L);
                break;
            default:
                break;
        }
    }

    /// <summary>The data attribute of \bootmgr, the first file that was made: record 64 on a fresh volume.</summary>
    private static Span<byte> DataAttribute(byte[] volume, int mft)
    {
        var record = volume.AsSpan(mft + (64 * 1024), 1024);
        int at = BitConverter.ToUInt16(record[0x14..]);
        while (BitConverter.ToUInt32(record[at..]) != 0x80) at += (int)BitConverter.ToUInt32(record[(at + 4)..]);
        return record[at..];
    }

    /// <summary>Started by the emulator, and foreseen so by the simulation of the code.</summary>
    private static async Task Starts(string disk)
    {
        Simulated(disk).Outcome.ShouldBe(LoadOutcome.Loaded);
        (await Emulator.Reaches(disk)).ShouldBeTrue();
    }

    private static LoadResult Simulated(string disk)
    {
        using var machine = Machine.Open(disk);
        var volume = machine.Volumes.First(volume => volume.Partition.Active);
        var loader = BootSectorCopy.Recognize(volume.Blocks, volume.Kind)?.Loader ?? LoaderKind.BootManager;
        return BootCodeLoading.Try(volume.Blocks, volume.Kind, loader).ShouldNotBeNull();
    }
}

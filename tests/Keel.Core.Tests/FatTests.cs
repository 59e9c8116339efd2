using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>FAT as others see it: fsck.fat and mtools judge every change.</summary>
public sealed class FatTests
{
    private const int MiB = 1024 * 1024;

    public static TheoryData<string, int, int> Makers => new()
    {
        { "mkfs.fat -F 12", 3, 1 },
        { "mkfs.fat -F 16", 20, 2 },
        { "mkfs.fat -F 32", 40, 3 },
        { "mkfs.fat -F 32 -f 1", 40, 4 },
        { "mkfs.fat -F 16 -S 2048", 40, 5 },
        { "keel Fat12", 3, 6 }, { "keel Fat16", 20, 7 }, { "keel Fat32", 40, 8 }, { "keel Fat32", 300, 9 }
    };

    [Theory, MemberData(nameof(Makers))]
    public async Task Random_changes_leave_what_mtools_and_fsck_see_too(string maker, int sizeMiB, int seed)
    {
        using var scratch = new Scratch();
        var image = await Make(scratch, maker, sizeMiB);
        var random = new Random(seed);
        var model = new Dictionary<string, byte[]?>(StringComparer.OrdinalIgnoreCase);
        for (var operation = 0; operation < 45; operation++)
        {
            var did = Change(image, random, model);
            await Tool.MustAgree("fsck.fat", "-n", image);
            var listed = (await Tool.Run("mdir", "-a", "-/", "-b", "-i", image, "::")).Output
                .Split('\n', StringSplitOptions.RemoveEmptyEntries)
                .Select(line => line[2..].TrimEnd('/').Replace('/', '\\'));
            listed.Order(StringComparer.Ordinal).ShouldBe(model.Keys.Order(StringComparer.Ordinal), did);
        }

        await Tool.MustAgree("mcopy", "-s", "-n", "-m", "-i", image, "::", scratch["copied"]);
        foreach (var (path, bytes) in model.Where(file => file.Value is not null))
            (await File.ReadAllBytesAsync(
                scratch["copied"] + path.Replace('\\', '/'),
                TestContext.Current.CancellationToken)).ShouldBe(bytes, path);
    }

    [Theory]
    [InlineData("boot sector", 0)]
    [InlineData("table", 32 * 512)]
    [InlineData("folders", -1)]
    public void Any_bytes_are_survived(string where, int at)
    {
        using var scratch = new Scratch();
        using var image = NewImage(scratch["image"], 36);
        FatFormat.Format(image, "SYSTEM", 1, 0);
        Fill(image);
        var data = FatBootSector.TryRead(image.ReadBytes(0, 512))!.DataSector * 512;
        var (from, length) = (at < 0 ? data : at, at < 0 ? 8192 : at == 0 ? 90 : 4096);
        for (var seed = 0; seed < 300; seed++)
        {
            var random = new Random(seed);
            var copy = new Overlay(image);
            var bytes = new byte[random.Next(1, 40)];
            random.NextBytes(bytes);
            copy.Write(from + random.Next(length), bytes);
            try
            {
                using var volume = FatVolume.Open(copy, where, forWriting: true);
                Read(volume, "", 0);
                _ = FatHealth.Of(copy, where);
                volume.WriteFile(@"\new file.txt", new byte[3000]);
                volume.Delete(@"\new file.txt");
            }
            catch (KeelException e)
            {
                e.What.ShouldNotBeEmpty();
            }
        }
    }

    [Fact]
    public void Differing_tables_are_told_and_the_better_one_is_known()
    {
        using var scratch = new Scratch();
        using var image = NewImage(scratch["image"], 36);
        FatFormat.Format(image, "SYSTEM", 1, 0);
        Fill(image);
        (FatHealth.Of(image, "it") is { CopiesDiffer: false, Damage.Count: 0, BestIsSound: true }).ShouldBeTrue();
        image.Write(32 * 512, new byte[512]);
        var health = FatHealth.Of(image, "it");
        (health.CopiesDiffer, health.BestCopy, health.BestIsSound).ShouldBe((true, 1, true));
        health.Damage.ShouldNotBeEmpty();
        FatHealth.SpreadCopy(image, 1);
        (FatHealth.Of(image, "it") is { CopiesDiffer: false, Damage.Count: 0 }).ShouldBeTrue();
    }

    [Fact]
    public void A_full_volume_refuses_before_it_loses_anything()
    {
        using var scratch = new Scratch();
        using var image = NewImage(scratch["image"], 3);
        FatFormat.Format(image, "SMALL", 1, 0);
        using (var volume = FatVolume.Open(image, "it", forWriting: true))
        {
            volume.WriteFile(@"\kept.txt", "timetable"u8);
            Should
                .Throw<RefusedException>(() => volume.WriteFile(@"\large.bin", new byte[4 * MiB])).Why
                .ShouldContain("are free");
            volume.Find(@"\large.bin").ShouldBeNull();
        }

        using var again = FatVolume.Open(image, "it");
        again.ReadFile(@"\kept.txt").ShouldBe("timetable"u8.ToArray());
    }

    [Fact]
    public async Task Attributes_are_those_that_others_see()
    {
        using var scratch = new Scratch();
        var image = await Make(scratch, "mkfs.fat -F 16", 20);
        await Tool.MustAgree(
            "bash",
            "-c",
            $"echo x > {scratch["f"]}; mcopy -i {image} {scratch["f"]} '::Long Name.Txt'; mattrib -i {image} +h +r -a '::Long "
                + "Name.Txt'");
        using (var disk = DiskFile.OpenForWriting(image))
        using (var volume = FatVolume.Open(disk, "it", forWriting: true))
        {
            volume.Find(@"\LONG NAME.TXT")!.Marks.ShouldBe(FileMarks.Hidden | FileMarks.ReadOnly);
            volume.Find(@"\LONGNA~1.TXT")!.Name.ShouldBe("Long Name.Txt");
            volume.SetMarks(@"\Long Name.Txt", FileMarks.System | FileMarks.Archive);
        }

        var said = await Tool.MustAgree("mattrib", "-i", image, "::Long Name.Txt");
        said.ShouldContain("A  S");
        said.ShouldNotContain("H");
    }

    [Fact]
    public async Task Files_are_found_by_either_name_while_others_come_change_and_go()
    {
        using var scratch = new Scratch();
        using var disk = DiskFile.OpenForWriting(await Make(scratch, "mkfs.fat -F 16", 20));
        using var volume = FatVolume.Open(disk, "it", forWriting: true);
        volume.WriteFile(@"\Timetable of winter.txt", [1]);
        volume.WriteFile(@"\Timetable of summer.txt", [2]);
        volume.ReadFile(@"\TIMETA~2.TXT").ShouldBe([2]);

        volume.SetMarks(@"\timetable of SUMMER.txt", FileMarks.Hidden);
        volume.Find(@"\TIMETA~2.TXT")!.Marks.ShouldBe(FileMarks.Hidden);
        volume.Find(@"\Timetable of summer.txt")!.Marks.ShouldBe(FileMarks.Hidden);

        volume.Delete(@"\TIMETA~1.TXT");
        volume.Find(@"\Timetable of winter.txt").ShouldBeNull();
        volume.WriteFile(@"\TIMETA~1.TXT", [3]);
        volume.ReadFile(@"\timeta~1.txt").ShouldBe([3]);
        volume.Find(@"\Timetable of winter.txt").ShouldBeNull();

        volume.Rename(@"\Timetable of summer.txt", "quays.txt");
        volume.Find(@"\TIMETA~2.TXT").ShouldBeNull();
        volume.ReadFile(@"\QUAYS.TXT").ShouldBe([2]);
    }

    private static string Change(string image, Random random, Dictionary<string, byte[]?> model)
    {
        using var disk = DiskFile.OpenForWriting(image);
        using var volume = FatVolume.Open(disk, "it", forWriting: true);
        var folders = model.Where(file => file.Value is null).Select(file => file.Key).Append("").ToList();
        var files = model.Where(file => file.Value is not null).Select(file => file.Key).ToList();
        var folder = folders[random.Next(folders.Count)];
        var path = $@"{folder}\{Name(random)}";
        switch (random.Next(10))
        {
            case 0 or 1 when folder.Length < 60:
                volume.CreateFolder(path);
                model[path] = null;
                return $"folder {path}";
            case 2 when files.Count > 0:
                var gone = files[random.Next(files.Count)];
                volume.Delete(gone);
                model.Remove(gone);
                return $"delete {gone}";
            case 3 when files.Count > 0:
                var old = files[random.Next(files.Count)];
                var renamed = $@"{VolumeExtensions.FolderOf(old)}\{Name(random)}";
                volume.Rename(old, VolumeExtensions.NameOf(renamed));
                model.Remove(old, out var bytes);
                model[renamed] = bytes;
                return $"rename {old} {renamed}";
            case 4 or 5 when files.Count > 0:
                path = files[random.Next(files.Count)];
                break;
            default:
                break;
        }

        var contents = new byte[random.Next(4) == 0 ? 0 : random.Next(60_000)];
        random.NextBytes(contents);
        volume.WriteFile(path, contents);
        model[path] = contents;
        if (random.Next(3) == 0) volume.SetMarks(path, (FileMarks)random.Next(8) & FileMarks.Changeable);
        volume.ReadFile(path).ShouldBe(contents);
        return $"write {path}";
    }

    /// <summary>Short, long, mixed and accented names, each new.</summary>
    private static string Name(Random random) => random.Next(4) switch
    {
        0 => $"FILE{random.Next(100000)}.BIN",
        1 => $"a longer name of a file, number {random.Next(100000)}.mui",
        2 => $"Überfahrt {random.Next(100000)}.Plan",
        _ => $"x{random.Next(100000)}"
    };

    private static void Read(FatVolume volume, string folder, int depth)
    {
        foreach (var file in volume.List(folder).Take(50))
        {
            if (file.IsFolder && depth < 6) Read(volume, $@"{folder}\{file.Name}", depth + 1);
            else if (!file.IsFolder && volume.Find($@"{folder}\{file.Name}") is { IsFolder: false, SizeBytes: < MiB })
                _ = volume.ReadFile($@"{folder}\{file.Name}");
        }
    }

    private static void Fill(DiskFile image)
    {
        using var volume = FatVolume.Open(image, "it", forWriting: true);
        volume.CreateFolder(@"\EFI\Microsoft\Boot");
        volume.WriteFile(@"\EFI\Microsoft\Boot\bootmgfw.efi", new byte[20_000]);
        volume.WriteFile(@"\EFI\Microsoft\Boot\A long name.txt", new byte[500]);
    }

    private static DiskFile NewImage(string path, int sizeMiB)
    {
        using (var file = File.Create(path)) file.SetLength((long)sizeMiB * MiB);
        return DiskFile.OpenForWriting(path);
    }

    private static async Task<string> Make(Scratch scratch, string maker, int sizeMiB)
    {
        using (var image = NewImage(scratch["image"], sizeMiB))
        {
            if (maker.StartsWith("keel ", StringComparison.Ordinal))
                FatFormat.Format(image, "SYSTEM", 0xB4AC0042, 0, Enum.Parse<FileSystemKind>(maker[5..]));
        }

        if (maker.StartsWith("mkfs", StringComparison.Ordinal))
            await Tool.MustAgree("mkfs.fat", [.. maker.Split(' ').Skip(1), scratch["image"]]);
        await Tool.MustAgree("fsck.fat", "-n", scratch["image"]);
        return scratch["image"];
    }

    [Theory]
    [InlineData("2022.10.3", true)]
    [InlineData("2022.10.3 integrated FUSE 28", true)]
    [InlineData("2031.1.1", false)]
    [InlineData(null, false)]
    public void A_library_of_unknown_layout_is_not_used(string? version, bool expected) =>
        Volumes.Ntfs.NtfsLibrary.IsKnownVersion(version).ShouldBe(expected);
}

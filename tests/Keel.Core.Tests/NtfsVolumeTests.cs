using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// Files of an NTFS volume: what is written is there for others too, and a damaged volume is an error or a fact.
/// </summary>
public sealed class NtfsVolumeTests
{
    private const int MiB = 1024 * 1024;

    [Theory]
    [InlineData(512, 1)]
    [InlineData(4096, 2)]
    [InlineData(65536, 3)]
    public async Task Random_changes_leave_what_others_see_too(int clusterBytes, int seed)
    {
        using var scratch = new Scratch();
        var path = Made(scratch, clusterBytes);
        var random = new Random(seed);
        var model = new Dictionary<string, byte[]?>(StringComparer.OrdinalIgnoreCase);
        for (var round = 0; round < 6; round++)
        {
            Change(path, volume =>
            {
                for (var operation = 0; operation < 12; operation++) Act(volume, random, model);
            });
            await Tool.MustAgree("ntfsfix", "-n", path);
        }

        using (var image = DiskFile.Open(path))
        using (var volume = NtfsVolume.Open(new Overlay(image), "quay"))
        {
            foreach (var (name, bytes) in model)
            {
                volume.Find(name)!.IsFolder.ShouldBe(bytes is null, name);
                if (bytes is not null) volume.OpenFile(name).ReadBytesOf(int.MaxValue).ShouldBe(bytes, name);
            }
        }

        foreach (var (name, bytes) in model.Where(file => file.Value is { Length: > 0 }))
        {
            var said = await Tool.Run("bash", "-c", $"ntfscat '{path}' '{name.Replace('\\', '/')}' | sha256sum");
            var hash = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(bytes!));
            said.Output.ShouldStartWith(hash, customMessage: name);
        }
    }

    [Fact]
    public void Names_are_found_in_any_case_and_lists_are_of_that_folder_only()
    {
        using var scratch = new Scratch();
        var path = Made(scratch, 4096);
        Change(path, volume =>
        {
            volume.CreateFolder(@"\Quay\Shed");
            volume.WriteFile(@"\Quay\Timetable.txt", "07:15"u8);
            volume.WriteFile(@"\Quay\Shed\Ropes.txt", "9"u8);
        });
        using var image = DiskFile.Open(path);
        using var volume = NtfsVolume.Open(new Overlay(image), "quay");
        volume.Find(@"\QUAY\timetable.TXT")!.SizeBytes.ShouldBe(5);
        volume.Find(@"\Quay\Shed")!.IsFolder.ShouldBeTrue();
        volume.Find(@"\Quay\Shed\Anchor.txt").ShouldBeNull();
        volume.Find(@"\Quay\Timetable.txt\under a file").ShouldBeNull();
        volume.List(@"\Quay").Select(file => file.Name).ShouldBe(["Shed", "Timetable.txt"], ignoreOrder: true);
        volume.List("").Select(file => file.Name).ShouldContain("Quay");
        volume.List(@"\Nowhere").ShouldBeEmpty();
    }

    [Fact]
    public void A_change_of_bytes_in_place_keeps_size_and_place()
    {
        using var scratch = new Scratch();
        var path = Made(scratch, 4096);
        var contents = new byte[100_000];
        new Random(4).NextBytes(contents);
        Change(path, volume => volume.WriteFile(@"\log", contents));
        Change(path, volume => volume.Patch(@"\log", 70_001, [1, 2, 3]));
        (contents[70_001], contents[70_002], contents[70_003]) = (1, 2, 3);
        using var image = DiskFile.Open(path);
        using var volume = NtfsVolume.Open(new Overlay(image), "quay");
        volume.OpenFile(@"\log").ReadBytesOf(int.MaxValue).ShouldBe(contents);
    }

    [Fact]
    public void A_change_that_fails_leaves_the_disk_below_as_it_was()
    {
        using var scratch = new Scratch();
        var path = Made(scratch, 4096);
        var before = SparseHash.Of(path);
        using (var image = DiskFile.Open(path))
        {
            var overlay = new Overlay(image);
            using var volume = NtfsVolume.Open(overlay, "quay", VolumeUse.Writing);
            Should.Throw<KeelException>(() => volume.WriteFile(@"\no\such\folder\file", new byte[10]));
            Should.Throw<KeelException>(() => volume.WriteFile(@"\far too large", new byte[60 * MiB]));
            Should.Throw<KeelException>(() => volume.Delete(@"\not there"));
            Should.Throw<KeelException>(() => volume.Patch(@"\not there", 0, [1]));
        }

        SparseHash.Of(path).ShouldBe(before);
    }

    [Fact]
    public void Attributes_are_kept_and_what_is_no_attribute_of_a_user_stays()
    {
        using var scratch = new Scratch();
        var path = Made(scratch, 4096);
        Change(path, volume => volume.WriteFile(@"\boat", [1]));
        foreach (var marks in (FileMarks[])[
            FileMarks.None,
            FileMarks.Hidden | FileMarks.System,
            FileMarks.ReadOnly | FileMarks.Archive,
            FileMarks.Changeable])
        {
            Change(path, volume => volume.SetMarks(@"\boat", marks));
            using var image = DiskFile.Open(path);
            using var volume = NtfsVolume.Open(new Overlay(image), "quay");
            (volume.Find(@"\boat")!.Marks & FileMarks.Changeable).ShouldBe(marks & FileMarks.Changeable);
        }
    }

    [Theory]
    [InlineData("boot sector", 0, 84)]
    [InlineData("records", 16 * 1024, 64 * 1024)]
    [InlineData("anywhere", 0, 40 * MiB)]
    public void Any_bytes_are_survived(string where, int from, int length)
    {
        using var scratch = new Scratch();
        var path = Made(scratch, 4096);
        Change(path, volume =>
        {
            volume.CreateFolder(@"\Quay");
            for (var number = 0; number < 20; number++) volume.WriteFile($@"\Quay\boat {number}", new byte[number * 700]);
        });
        var sound = File.ReadAllBytes(path);
        for (var seed = 0; seed < 60; seed++)
        {
            var random = new Random(seed);
            var copy = sound.ToArray();
            for (var change = 0; change < 6; change++)
                random.NextBytes(copy.AsSpan(from + random.Next(length - 16), random.Next(1, 16)));
            try
            {
                using var volume = NtfsVolume.Open(new Overlay(new MemoryBlocks(copy)), where);
                foreach (var file in volume.List(@"\Quay").Where(file => !file.IsFolder && file.SizeBytes is > 0 and < MiB))
                    volume.OpenFile($@"\Quay\{file.Name}").ReadBytesOf(100_000);
            }
            catch (KeelException e)
            {
                e.What.ShouldNotBeEmpty();
            }
        }
    }

    private static void Act(NtfsVolume volume, Random random, Dictionary<string, byte[]?> model)
    {
        var folders = model.Where(file => file.Value is null).Select(file => file.Key).Append("").ToList();
        var files = model.Where(file => file.Value is not null).Select(file => file.Key).ToList();
        var name = random.Next(2) == 0 ? "Boat" : "木 long name of a boat";
        var path = $@"{folders[random.Next(folders.Count)]}\{name} {random.Next(1000)}";
        switch (random.Next(6))
        {
            case 0 when !model.ContainsKey(path):
                volume.CreateFolder(path);
                model[path] = null;
                break;
            case 1 when files.Count > 0:
                var gone = files[random.Next(files.Count)];
                volume.Delete(gone);
                model.Remove(gone);
                break;
            case 2 when files.Count > 0:
                var old = files[random.Next(files.Count)];
                var other = $"Renamed {random.Next(100_000)}";
                volume.Rename(old, other);
                model.Remove(old, out var kept);
                model[$@"{VolumeExtensions.FolderOf(old)}\{other}"] = kept;
                break;
            default:
                if (model.TryGetValue(path, out var there) && there is null) break;
                var bytes = new byte[random.Next(4) == 0 ? random.Next(300_000) : random.Next(2_000)];
                random.NextBytes(bytes);
                volume.WriteFile(path, bytes);
                model[path] = bytes;
                break;
        }
    }

    private static string Made(Scratch scratch, int clusterBytes)
    {
        var path = scratch["volume.img"];
        using (var file = File.Create(path)) file.SetLength(40 * MiB);
        using var image = DiskFile.OpenForWriting(path);
        Formatter.Ntfs(image, new ByteRange(0, 40 * MiB), "Quay", clusterBytes);
        return path;
    }

    /// <summary>Changes the volume in an overlay, and writes what came of it.</summary>
    private static void Change(string path, Action<NtfsVolume> change)
    {
        using var image = DiskFile.OpenForWriting(path);
        var overlay = new Overlay(image);
        using (var volume = NtfsVolume.Open(overlay, "quay", VolumeUse.Writing))
        {
            change(volume);
            volume.Close();
        }

        foreach (var range in overlay.Changes().Ranges) image.Write(range.Start, overlay.ReadBytes(range.Start, range.Length));
    }
}

using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;
using Keel.Core.Volumes.Packing;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Files that Windows' overlay packed: read as they were, written unpacked, and damaged ones are an error.</summary>
public sealed class PackedFileTests
{
    private const string Path = @"\Windows\System32\tidegauge.sys", OtherName = @"\Windows\WinSxS\tidegauge.sys";

    public static readonly TheoryData<uint, int> Sizes = new(
        from method in (uint[])[0, 1, 2, 3]
        from size in (int[])[1, 4096, 4097, 16_384, 32_768, 32_769, 200_001]
        select (method, size));

    [Theory, MemberData(nameof(Sizes))]
    public void What_was_packed_is_read_as_it_was(uint method, int size)
    {
        var contents = Contents(size, seed: size);
        var blocks = Packed(contents, method);
        blocks.LengthBytes.ShouldBe(size);
        blocks.ReadBytes(0, size).ShouldBe(contents);
        var random = new Random(7);
        for (var count = 0; count < 40; count++)
        {
            var at = random.Next(size);
            var length = random.Next(Math.Min(size - at, 9000) + 1);
            blocks.ReadBytes(at, length).ShouldBe(contents.AsSpan(at, length).ToArray());
        }
    }

    [Theory]
    [InlineData(0u)]
    [InlineData(1u)]
    [InlineData(2u)]
    [InlineData(3u)]
    public async Task On_a_volume_it_has_its_size_and_all_its_names_and_is_written_unpacked(uint method)
    {
        using var practice = new Practice();
        var contents = Contents(150_000, seed: 3);
        practice.ChangeWindows(files =>
        {
            files.WriteFile(Path, contents);
            ((NtfsVolume)files).Link(Path, OtherName);
            ((NtfsVolume)files).Pack(Path, method);
        });
        var files = practice.Windows.Files!;
        var file = files.Find(Path)!;
        (file.IsPacked, file.IsElsewhere, file.SizeBytes).ShouldBe((true, false, 150_000));
        files.ReadFile(Path).ShouldBe(contents);
        files.ReadFile(OtherName).ShouldBe(contents);

        practice.ChangeWindows(writable => writable.WriteFile(Path, contents.AsSpan(10)));
        files = practice.Windows.Files!;
        files.Find(Path)!.IsPacked.ShouldBeFalse();
        files.ReadFile(Path).ShouldBe(contents[10..]);
        files.ReadFile(OtherName).ShouldBe(contents);           // the second name keeps what it had
        var alone = $"{practice.Folder}/windows.ntfs";
        await Tool.MustAgree("dd", $"if={practice.Path}", $"of={alone}", "bs=1M", "skip=65", "count=256", "status=none");
        await Tool.MustAgree("ntfsfix", "-n", alone);
    }

    [Fact]
    public void Hostile_streams_end_in_an_error_that_says_so_or_in_bytes()
    {
        var contents = Contents(40_000, seed: 5);
        var method = PackingMethod.ByNumber(0)!.Value;
        var packed = Packer.Pack(contents, method, "tidegauge.sys");
        var random = new Random(11);
        var refused = 0;
        for (var round = 0; round < 600; round++)
        {
            var hostile = packed.ToArray();
            for (var changes = random.Next(1, 12); changes > 0; changes--)
                hostile[random.Next(hostile.Length)] = (byte)random.Next(256);
            if (round % 3 == 0) hostile = hostile[..random.Next(hostile.Length)];
            var length = round % 5 == 0 ? random.NextInt64(1, long.MaxValue / 2) : contents.Length;
            using var unpacker = new Unpacker(method, "tidegauge.sys");
            var blocks = new PackedBlocks(new MemoryBlocks(hostile), length, method, unpacker, "tidegauge.sys");
            try
            {
                blocks.ReadBytes(0, (int)Math.Min(length, contents.Length));
                blocks.ReadBytes(Math.Max(0, length - 5000), (int)Math.Min(length, 5000));
            }
            catch (UnreadableException e)
            {
                e.IsContentDamaged.ShouldBeTrue();
                refused++;
            }
        }

        refused.ShouldBeGreaterThan(200);
    }

    /// <summary>Reparse points of other owners are named, and never read as if they were empty.</summary>
    [Theory]
    [InlineData(0xA000000C, "another file")]
    [InlineData(0xA0000003, "another folder")]
    [InlineData(0x9000601A, "a cloud")]
    [InlineData(0x80000013, "deduplication")]
    [InlineData(0x80000017, "packed in a way not known")]
    [InlineData(0x12345678, "0x12345678")]
    public void What_stands_for_something_else_is_named(uint tag, string names)
    {
        byte[] point = [.. BitConverter.GetBytes(tag), 8, 0, 0, 0, 9, 9, 9, 9, 9, 9, 9, 9];
        NtfsReparsePoint.TryRead(point)!.Names.ShouldContain(names);
        NtfsReparsePoint.TryRead(point)!.Packing.ShouldBeNull();
        NtfsReparsePoint.TryRead(point.AsSpan(0, 7)).ShouldBeNull();
    }

    [Theory]
    [InlineData(0u)]
    [InlineData(1u)]
    public void A_machine_whose_files_are_packed_is_sound(uint method)
    {
        using var scratch = new Scratch();
        PracticeDisk.Make(scratch["packed.img"], new PracticeSpec { PackedBy = method }, Faults.Find("none"));
        using var machine = Machine.Open(scratch["packed.img"]);
        machine.Installations[0].Volume.Files!.Find(@"\Windows\System32\drivers\disk.sys")!.IsPacked.ShouldBeTrue();
        Chain.Walk.Of(machine).Verdict.ShouldBe(Chain.Verdict.Sound);
    }

    private static PackedBlocks Packed(byte[] contents, uint number)
    {
        var method = PackingMethod.ByNumber(number)!.Value;
        var stream = new MemoryBlocks(Packer.Pack(contents, method, "tidegauge.sys"));
        return new PackedBlocks(stream, contents.Length, method, new Unpacker(method, "tidegauge.sys"), "tidegauge.sys");
    }

    /// <summary>Pieces that get smaller, and some that don't.</summary>
    private static byte[] Contents(int size, int seed)
    {
        var random = new Random(seed);
        var contents = new byte[size];
        for (var at = 0; at < size; at++) contents[at] = (at / 20_000) % 2 == 0 ? (byte)(at % 97 / 3) : (byte)random.Next(256);
        return contents;
    }
}

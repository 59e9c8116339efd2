using System.Diagnostics;
using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// What stands between a disk and the walk: paths told apart, every block fetched once, holes known, memory given out once.
/// </summary>
public sealed class BlocksTests
{
    private const int MiB = 1024 * 1024;

    [Fact]
    public void Any_reads_through_the_cache_are_those_of_the_disk() =>
        Gen
            .Select(Gen.Int[1, 300_000], Gen.Select(Gen.Int[0, 299_999], Gen.Int[0, 90_000]).Array[1, 30])
            .Sample((length, reads) =>
        {
            var bytes = new byte[length];
            new Random(length).NextBytes(bytes);
            var cache = new CachedBlocks(new MemoryBlocks(bytes), limitBlocks: 5);
            foreach (var (at, count) in reads)
            {
                if (at + count <= length)
                    cache.ReadBytes(at, count).AsSpan().SequenceEqual(bytes.AsSpan(at, count)).ShouldBeTrue();
                else
                    Should.Throw<UnreadableException>(() => cache.ReadBytes(at, count));
            }
        });

    [Fact]
    public void A_block_is_fetched_once_and_a_full_cache_forgets_the_oldest()
    {
        var disk = new CountingBlocks(new byte[MiB]);
        var cache = new CachedBlocks(disk, limitBlocks: 4);
        for (var round = 0; round < 10; round++) cache.ReadBytes(100, 8);
        disk.Reads.ShouldBe(1);
        for (var block = 1; block <= 4; block++) cache.ReadBytes(block * 4096, 8);
        disk.Reads.ShouldBe(5);
        cache.ReadBytes(4 * 4096, 8);
        disk.Reads.ShouldBe(5);
        cache.ReadBytes(100, 8);
        disk.Reads.ShouldBe(6);
    }

    [Fact]
    public void Large_reads_pass_by_the_cache_and_push_nothing_out()
    {
        var disk = new CountingBlocks(new byte[MiB]);
        var cache = new CachedBlocks(disk, limitBlocks: 4);
        cache.ReadBytes(0, 8);
        cache.ReadBytes(0, MiB);
        disk.Reads.ShouldBe(2);
        cache.ReadBytes(0, 8);
        disk.Reads.ShouldBe(2);
    }

    [Fact]
    public void A_part_of_a_block_that_fails_does_not_take_the_rest_with_it()
    {
        var disk = new CountingBlocks(new byte[8192]) { FailsAt = 4096 + 512 };
        var cache = new CachedBlocks(disk);
        cache.ReadBytes(4096, 512).ShouldBe(new byte[512]);
        cache.ReadBytes(5120, 512).ShouldBe(new byte[512]);
        Should.Throw<ReadFailedException>(() => cache.ReadBytes(4096, 1024));
    }

    [Theory]
    [InlineData(long.MaxValue)]
    [InlineData(300 * 4096)]
    public void Room_for_blocks_is_given_to_nobody_twice(long memoryBytes)
    {
        using var scratch = new Scratch();
        var room = new OverlayRoom(() => new SpillFile(scratch["spill"]), memoryBytes);
        var taken = Enumerable.Range(0, 500).Select(_ => room.Take(4096, generation: 0)).ToList();
        var (written, read) = (new byte[4096], new byte[4096]);
        for (var index = 0; index < taken.Count; index++)
        {
            written.AsSpan().Fill((byte)index);
            taken[index].Write(0, written);
        }

        for (var index = 0; index < taken.Count; index++)
        {
            taken[index].Read(0, read);
            read.AsSpan().ContainsAnyExcept((byte)index).ShouldBeFalse($"block {index}");
        }

        taken.ShouldAllBe(block => block.Length == 4096);
    }

    [Fact]
    public void A_sparse_image_is_read_as_it_is_at_every_border_of_a_hole()
    {
        using var scratch = new Scratch();
        var model = new byte[3 * MiB];
        using (var file = File.Create(scratch["sparse.img"]))
        {
            foreach (var (at, length) in new[] { (0, 512), (MiB, 4096), ((2 * MiB) - 512, 1024), ((3 * MiB) - 4096, 4096) })
            {
                model.AsSpan(at, length).Fill((byte)(1 + (at / 512)));
                file.Position = at;
                file.Write(model, at, length);
            }
        }

        using var disk = DiskFile.Open(scratch["sparse.img"]);
        Gen.Select(Gen.Int[0, (3 * MiB) - 1], Gen.Int[1, 300_000]).Sample((at, count) =>
        {
            var length = Math.Min(count, model.Length - at);
            return disk.ReadBytes(at, length).AsSpan().SequenceEqual(model.AsSpan(at, length));
        });
        disk.ReadBytes(0, model.Length).AsSpan().SequenceEqual(model).ShouldBeTrue();
    }

    [Fact]
    public void An_image_that_was_cut_short_meanwhile_is_an_error_and_no_zeros()
    {
        using var scratch = new Scratch();
        using (var file = File.Create(scratch["short.img"])) file.SetLength(MiB);
        using var disk = DiskFile.Open(scratch["short.img"]);
        using (var file = File.OpenWrite(scratch["short.img"])) file.SetLength(MiB / 2);
        disk.ReadBytes(0, MiB / 2).Length.ShouldBe(MiB / 2);
        Should.Throw<KeelException>(() => disk.ReadBytes((MiB / 2) - 512, 1024));
        Should.Throw<KeelException>(() => disk.ReadBytes(MiB - 512, 512));
    }

    [Theory]
    [InlineData("", "No disk was named.")]
    [InlineData("/no/such/place", "is not there.")]
    [InlineData("/tmp", "is a folder.")]
    [InlineData("/dev/null", "is not a disk.")]
    public void What_is_no_disk_is_told_apart(string path, string what) =>
        Should.Throw<KeelException>(() => DiskPath.Resolve(path)).What.ShouldEndWith(what);

    [Fact]
    public void A_pipe_is_refused_at_once_and_a_link_is_followed()
    {
        using var scratch = new Scratch();
        Process.Start("mkfifo", [scratch["pipe"]])!.WaitForExit();
        var watch = Stopwatch.StartNew();
        Should.Throw<UnreadableException>(() => DiskPath.Resolve(scratch["pipe"])).What.ShouldEndWith("is not a disk.");
        watch.Elapsed.ShouldBeLessThan(TimeSpan.FromSeconds(5));

        File.WriteAllBytes(scratch["disk.img"], new byte[512]);
        File.CreateSymbolicLink(scratch["first"], scratch["disk.img"]);
        File.CreateSymbolicLink(scratch["second"], scratch["first"]);
        DiskPath.Resolve(scratch["second"]).ShouldBe(scratch["disk.img"]);
        DiskPath.IsSame(scratch["second"], scratch["disk.img"]).ShouldBeTrue();
    }

    /// <summary>Counts what is asked of it, and fails where it should.</summary>
    private sealed class CountingBlocks(byte[] bytes) : IReadableBlocks
    {
        public int Reads { get; private set; }

        public long? FailsAt { get; init; }

        public long LengthBytes => bytes.Length;

        public int SectorBytes => 512;

        public void Read(long offsetBytes, Span<byte> buffer)
        {
            this.CheckRange(offsetBytes, buffer.Length);
            Reads++;
            if (FailsAt is { } at && at >= offsetBytes && at < offsetBytes + buffer.Length)
                throw new ReadFailedException("It failed.", "A test says so.", "Nothing.", [at / SectorBytes]);
            bytes.AsSpan((int)offsetBytes, buffer.Length).CopyTo(buffer);
        }
    }
}

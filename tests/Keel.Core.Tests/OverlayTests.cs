using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>The overlay behaves as a disk would, and the disk below never changes.</summary>
public sealed class OverlayTests
{
    private const int DiskBytes = 50_000;

    /// <summary>Also where most of what is changed stands in a file; a saved state stays as it was there too.</summary>
    [Theory]
    [InlineData(long.MaxValue)]
    [InlineData(0)]
    [InlineData(10_000)]
    public void Reads_and_changes_are_those_of_a_plain_array(long memoryBytes)
    {
        using var scratch = new Scratch();
        Gen.Select(Gen.Int[0, DiskBytes - 1], Gen.Byte.Array[1, 9000]).Array[1, 12].Sample(writes =>
        {
            var original = new byte[DiskBytes];
            new Random(5).NextBytes(original);
            var model = original.ToArray();
            var overlay = new Overlay(
                new CachedBlocks(new MemoryBlocks(original.ToArray())),
                () => new SpillFile(scratch["spill"]),
                memoryBytes);
            OverlayState? early = null;
            byte[] then = [];
            foreach (var (at, data) in writes)
            {
                var part = data.AsSpan(0, Math.Min(data.Length, DiskBytes - at));
                part.CopyTo(model.AsSpan(at));
                overlay.Write(at, part);
                if (early is not null) continue;
                (early, then) = (overlay.Save(), model.ToArray());
            }

            overlay.ReadBytes(0, DiskBytes).ShouldBe(model);
            overlay.Disk.ReadBytes(0, DiskBytes).ShouldBe(original);
            var rebuilt = original.ToArray();
            foreach (var range in overlay.Changes().Ranges)
                model.AsSpan((int)range.Start, (int)range.Length).CopyTo(rebuilt.AsSpan((int)range.Start));
            rebuilt.ShouldBe(model);
            overlay.Restore(early!);
            overlay.ReadBytes(0, DiskBytes).ShouldBe(then);
        }, iter: 40);
        if (Directory.Exists(scratch["spill"])) Directory.GetFileSystemEntries(scratch["spill"]).ShouldBeEmpty();
    }

    [Fact]
    public void Where_the_changes_have_no_room_that_is_said()
    {
        using var scratch = new Scratch();
        File.WriteAllText(scratch["file"], "");
        var overlay = new Overlay(new MemoryBlocks(new byte[DiskBytes]), () => new SpillFile(scratch["file"]), memoryBytes: 0);
        Should.Throw<RefusedException>(() => overlay.Write(0, [1])).Why.ShouldContain(scratch["file"]);
    }

    [Fact]
    public void Writing_the_same_bytes_is_no_change_and_a_saved_state_comes_back()
    {
        var overlay = new Overlay(new MemoryBlocks(new byte[DiskBytes]));
        overlay.Write(1000, new byte[600]);
        overlay.Changes().Any.ShouldBeFalse();
        overlay.Write(0, [1]);
        var saved = overlay.Save();
        overlay.Write(0, [2]);
        overlay.Write(30_000, [3]);
        overlay.Restore(saved);
        overlay.Changes().Ranges.Select(range => range.Range).ShouldBe([new ByteRange(0, 512)]);
        overlay.ReadBytes(0, 1).ShouldBe([1]);
    }

    [Theory]
    [InlineData(-1, 1)]
    [InlineData(DiskBytes, 1)]
    [InlineData(DiskBytes - 1, 2)]
    [InlineData(long.MaxValue, 1)]
    public void Places_beyond_the_end_are_refused(long at, int count)
    {
        var overlay = new Overlay(new CachedBlocks(new MemoryBlocks(new byte[DiskBytes])));
        Should.Throw<UnreadableException>(() => overlay.Read(at, new byte[count]));
        Should.Throw<UnreadableException>(() => overlay.Write(at, new byte[count]));
        Should.Throw<UnreadableException>(() => new Slice(overlay, new ByteRange(100, 1000)).Read(1000, new byte[1]));
    }
}

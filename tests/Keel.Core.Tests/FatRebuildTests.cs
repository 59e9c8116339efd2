using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;

namespace Keel.Core.Tests;

/// <summary>What a FAT32 volume's lost boot sector said follows from where its two tables stand.</summary>
public sealed class FatRebuildTests
{
    private const int MiB = 1024 * 1024, SectorBytes = 512;

    [Fact]
    public void The_rebuilt_parameters_are_those_that_were_lost() => Gen
        .Select(Gen.Int[34 * 2, 70 * 2], Gen.OneOf(Gen.Const(512), Gen.Const(1024)), Gen.UInt)
        .Where((halves, cluster, _) => (halves * (MiB / 2) / cluster) - 1000 > 65525)
        .Sample(
            (halves, clusterBytes, serial) =>
            {
                var volume = Formatted(halves * (MiB / 2), clusterBytes, serial);
                var before = Parameters(volume);
                Wipe(volume);
                var sector = FatRebuild.Sector(volume, serial).ShouldNotBeNull();
                var after = FatBootSector.TryRead(sector).ShouldNotBeNull();
                (after with
                {
                    SectorsPerTrack = before.SectorsPerTrack,
                    Heads = before.Heads,
                    HasMark = true,
                    Label = before.Label
                }).ShouldBe(before);
            },
            iter: 25,
            threads: 1);

    [Fact]
    public void Files_are_found_again_through_the_rebuilt_sector()
    {
        var blocks = Formatted(40 * MiB, 512, 0xB4AC0042);
        var contents = new byte[70_000];
        new Random(3).NextBytes(contents);
        using (var volume = FatVolume.Open(blocks, "quay", forWriting: true))
        {
            volume.WriteFile(@"\EFI.BIN", contents);
            volume.Close();
        }

        Wipe(blocks);
        Should.Throw<Errors.KeelException>(() => FatVolume.Open(blocks, "quay"));

        var sector = FatRebuild.Sector(blocks, 0xB4AC0042)!;
        BootSectorMark.Put(sector);
        blocks.Write(0, sector);
        FatVolume.Open(blocks, "quay").OpenFile(@"\EFI.BIN").ReadBytes(0, contents.Length).ShouldBe(contents);
    }

    /// <summary>Then only the folders tell how large a cluster is.</summary>
    [Theory]
    [InlineData(512)]
    [InlineData(1024)]
    public void In_more_room_than_it_has_a_volume_keeps_its_size(int clusterBytes)
    {
        const int sizeBytes = 70 * MiB;
        var blocks = Formatted(sizeBytes, clusterBytes, 1);
        var before = Parameters(blocks);
        using (var volume = FatVolume.Open(blocks, "quay", forWriting: true))
        {
            volume.WriteFile(@"\timetable.txt", new byte[3000]);
            volume.CreateFolder(@"\EFI");
            volume.Close();
        }

        Wipe(blocks);
        byte[] room = [.. blocks.ReadBytes(0, sizeBytes), .. new byte[50 * MiB]];
        var after = FatBootSector.TryRead(FatRebuild.Sector(new MemoryBlocks(room), 1)!)!;
        after.ClusterBytes.ShouldBe(clusterBytes);
        after.TotalSectors.ShouldBeInRange(before.TotalSectors - (clusterBytes / SectorBytes), before.TotalSectors);
    }

    [Fact]
    public void Without_two_equal_tables_nothing_is_made_up()
    {
        var volume = Formatted(40 * MiB, 512, 1);
        var fats = Parameters(volume);
        Wipe(volume);
        volume.Write((fats.ReservedSectors + fats.FatSectors) * SectorBytes, new byte[SectorBytes]);
        FatRebuild.Sector(volume, 1).ShouldBeNull();
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(SectorBytes)]
    [InlineData(100_000)]
    public void A_volume_of_any_size_without_a_file_system_is_none(int bytes)
    {
        var noise = new byte[bytes];
        new Random(bytes).NextBytes(noise);
        FatRebuild.Sector(new MemoryBlocks(noise), 1).ShouldBeNull();
        FatRebuild.Sector(new MemoryBlocks(new byte[bytes]), 1).ShouldBeNull();
    }

    [Fact]
    public void Free_clusters_that_nobody_counted_leave_the_size_of_the_partition()
    {
        var volume = Formatted(40 * MiB, 512, 1);
        var before = Parameters(volume);
        Wipe(volume);
        var info = volume.ReadBytes(SectorBytes, SectorBytes);
        var record = info.At<FatInfoRecord>(0);
        record.FreeClusters = FatInfoRecord.Unknown;
        info.Put(0, record);
        volume.Write(SectorBytes, info);
        var after = FatBootSector.TryRead(FatRebuild.Sector(volume, 1)!)!;
        after.TotalSectors.ShouldBe(volume.LengthBytes / SectorBytes);
        after.FatSectors.ShouldBe(before.FatSectors);
    }

    [Fact]
    public void Any_damage_of_the_tables_ends_in_time_and_without_a_crash() => Gen
        .Select(Gen.Int[0, 64 * 1024], Gen.Byte.Array[1, 64])
        .Sample(
            (at, bytes) =>
            {
                var volume = Formatted(35 * MiB, 512, 7);
                Wipe(volume);
                volume.Write(at, bytes);
                if (FatRebuild.Sector(volume, 7) is not { } sector) return;
                var parameters = FatBootSector.TryRead(sector).ShouldNotBeNull();
                parameters.TotalSectors.ShouldBeLessThanOrEqualTo(35 * MiB / SectorBytes);
            },
            iter: 20,
            threads: 1);

    private static MemoryBlocks Formatted(int bytes, int clusterBytes, uint serial)
    {
        var volume = new MemoryBlocks(new byte[bytes]);
        FatFormat.Format(volume, "QUAY", serial, hiddenSectors: 0, FileSystemKind.Fat32, clusterBytes);
        return volume;
    }

    private static FatBootSector Parameters(MemoryBlocks volume) =>
        FatBootSector.TryRead(volume.ReadBytes(0, SectorBytes)).ShouldNotBeNull();

    /// <summary>Both copies of the boot sector are gone.</summary>
    private static void Wipe(MemoryBlocks volume)
    {
        volume.Write(0, new byte[SectorBytes]);
        volume.Write(6 * SectorBytes, new byte[SectorBytes]);
    }
}

using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>An NTFS volume without a boot sector tells its parameters by $MFT.</summary>
public sealed class BootSectorRescueTests
{
    private const int MiB = 1024 * 1024, SectorBytes = 512;

    [Theory]
    [InlineData(20, 512)]
    [InlineData(20, 1024)]
    [InlineData(30, 2048)]
    [InlineData(40, 4096)]
    [InlineData(64, 8192)]
    [InlineData(64, 65536)]
    public void What_mkntfs_wrote_is_found_again(int sizeMiB, int clusterBytes)
    {
        using var scratch = new Scratch();
        var volume = Made(scratch, sizeMiB, clusterBytes);
        var before = NtfsBootSector.TryRead(volume.ReadBytes(0, SectorBytes)).ShouldNotBeNull();
        Wipe(volume);

        var found = MftSearch.Find(volume).ShouldNotBeNull();
        found.MftCluster.ShouldBe(before.MftCluster);
        found.MirrorCluster.ShouldBe(before.MftMirrorCluster);
        found.ClusterBytes.ShouldBe(before.ClusterBytes);
        found.RecordBytes.ShouldBe(before.RecordBytes);
        found.IndexBytes.ShouldBe(before.IndexBytes);
    }

    [Theory]
    [InlineData("$MFT")]
    [InlineData("$MFTMirr")]
    [InlineData("the root")]
    public void One_torn_record_is_enough_to_say_nothing(string which)
    {
        using var scratch = new Scratch();
        var volume = Made(scratch, 20, 4096);
        var boot = NtfsBootSector.TryRead(volume.ReadBytes(0, SectorBytes))!;
        Wipe(volume);
        var number = which switch { "$MFT" => 0, "$MFTMirr" => 1, _ => 5 };
        foreach (var table in (long[])[boot.MftCluster, boot.MftMirrorCluster])
        {
            var last = (table * boot.ClusterBytes) + (number * boot.RecordBytes) + SectorBytes - 1;
            volume.Write(last, [(byte)(volume.ReadBytes(last, 1)[0] ^ 0xFF)]);
        }

        MftSearch.Find(volume).ShouldBeNull();
    }

    [Fact]
    public void Any_bytes_over_the_records_are_survived()
    {
        using var scratch = new Scratch();
        var sound = Made(scratch, 20, 4096);
        var boot = NtfsBootSector.TryRead(sound.ReadBytes(0, SectorBytes))!;
        Wipe(sound);
        var table = sound.ReadBytes(boot.MftCluster * boot.ClusterBytes, 8 * boot.RecordBytes);
        Gen.Select(Gen.Int[0, table.Length - 1].Array[1, 6], Gen.Byte).Sample(
            (places, value) =>
            {
                var changed = table.ToArray();
                foreach (var place in places) changed[place] = value;
                for (var at = 0; at < changed.Length; at += boot.RecordBytes)
                    NtfsFileRecord.TryRead(changed.AsSpan(at))?.IsNamed("$MFT");
                sound.Write(boot.MftCluster * boot.ClusterBytes, changed);
                if (MftSearch.Find(sound) is { } found) long.IsPow2(found.ClusterBytes).ShouldBeTrue();
            },
            iter: 300,
            threads: 1);
    }

    [Fact]
    public void The_rebuilt_sector_opens_the_volume_for_another_program()
    {
        using var practice = new Practice();
        var volume = practice.Windows;
        var before = NtfsBootSector.TryRead(volume.Blocks.ReadBytes(0, SectorBytes))!;
        volume.Blocks.Write(0, new byte[SectorBytes]);
        volume.Blocks.Write(volume.Blocks.LengthBytes - SectorBytes, new byte[SectorBytes]);

        var sector = BootSectorRescue.RebuildNtfs(volume, before.Serial).ShouldNotBeNull();
        var after = NtfsBootSector.TryRead(sector).ShouldNotBeNull();
        after.IsPlausible.ShouldBeTrue();
        (after with
        {
            HiddenSectors = before.HiddenSectors,
            SectorsPerTrack = before.SectorsPerTrack,
            Heads = before.Heads,
            HasMark = true
        }).ShouldBe(before);
        BootSectorProof.Holds(volume.Blocks, FileSystemKind.Ntfs, sector).ShouldBeTrue();
    }

    private static MemoryBlocks Made(Scratch scratch, int sizeMiB, int clusterBytes)
    {
        var path = scratch["volume.img"];
        using (var file = File.Create(path)) file.SetLength((long)sizeMiB * MiB);
        using (var image = DiskFile.OpenForWriting(path))
            Formatter.Ntfs(image, new ByteRange(0, (long)sizeMiB * MiB), "Quay", clusterBytes, SectorBytes);
        return new MemoryBlocks(File.ReadAllBytes(path));
    }

    private static void Wipe(MemoryBlocks volume)
    {
        volume.Write(0, new byte[SectorBytes]);
        volume.Write(volume.LengthBytes - SectorBytes, new byte[SectorBytes]);
    }
}

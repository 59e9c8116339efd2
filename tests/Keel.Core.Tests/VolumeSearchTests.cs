using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Search;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Volumes that other programs made, found wherever they stand, and whatever was done to them.</summary>
public sealed class VolumeSearchTests
{
    private const int Sector = 512, MiB = 1024 * 1024;

    [Theory]
    [InlineData("mkntfs -q -F -p FIRST -H 255 -S 63 -s 512 PART", 8, "NTFS")]
    [InlineData("mkntfs -q -F -c 1024 -p FIRST -H 255 -S 63 -s 512 PART", 8, "NTFS")]
    [InlineData("mkfs.fat -F 12 -h FIRST PART", 4, "FAT12")]
    [InlineData("mkfs.fat -F 16 -h FIRST PART", 32, "FAT16")]
    [InlineData("mkfs.fat -F 32 -h FIRST PART", 48, "FAT32")]
    [InlineData("mkfs.ext4 -q PART", 16, "ext")]
    [InlineData("mkswap PART", 4, "Linux swap")]
    public async Task A_volume_is_found_with_its_size_where_no_table_names_it(string command, int sizeMiB, string name)
    {
        using var scratch = new Scratch();
        const long first = 4096;
        var part = await Made(scratch, command, first, sizeMiB * MiB);
        foreach (var at in new[] { 1L * MiB, (first * Sector) + (77 * Sector) })
        {
            var disk = new byte[64 * MiB];
            part.CopyTo(disk, at);
            var found = VolumeSearch.Thorough(SearchedDisk.Of(new MemoryBlocks(disk)), []).Volumes.ShouldHaveSingleItem();
            found.Name.ShouldBe(name);
            found.Range.Start.ShouldBe(at);
            found.IsCertain.ShouldBeTrue();
            found.Range.Length.ShouldBeInRange(part.Length - (64 * 1024), part.Length);
        }
    }

    [Theory]
    [InlineData("boot sector", true)]
    [InlineData("backup", true)]
    [InlineData("both sectors", true)]
    [InlineData("$MFT", true)]
    [InlineData("mirror", true)]
    [InlineData("boot sector and mirror", true)]
    [InlineData("everything but the boot sector", false)]
    public async Task An_ntfs_volume_is_found_by_what_is_left_of_it(string lost, bool isCertain)
    {
        using var scratch = new Scratch();
        const long first = 4096;
        var part = await Made(scratch, "mkntfs -q -F -p FIRST -H 255 -S 63 -s 512 PART", first, 8 * MiB);
        var boot = NtfsBootSector.TryRead(part)!;
        var mft = (int)(boot.MftCluster * boot.ClusterBytes);
        var mirror = (int)(boot.MftMirrorCluster * boot.ClusterBytes);
        var isAll = lost.StartsWith("everything", StringComparison.Ordinal);
        if (lost.Contains("boot sector and") || lost is "boot sector" or "both sectors") part.AsSpan(0, 16 * Sector).Clear();
        if (lost is "backup" or "both sectors" || isAll) part.AsSpan(part.Length - Sector).Clear();
        if (lost == "$MFT" || isAll) part.AsSpan(mft, 4096).Clear();
        if (lost.Contains("mirror") || isAll) part.AsSpan(mirror, 4096).Clear();
        var disk = new byte[16 * MiB];
        part.CopyTo(disk, first * Sector);

        var volumes = VolumeSearch.Thorough(SearchedDisk.Of(new MemoryBlocks(disk)), []).Volumes;

        if (!isCertain)
        {
            volumes.ShouldNotContain(volume => volume.IsCertain);
            return;
        }

        var found = volumes.ShouldHaveSingleItem();
        found.Range.ShouldBe(new ByteRange(first * Sector, part.Length));
        (found.IsCertain || lost == "both sectors").ShouldBeTrue();
    }

    /// <summary>With both sectors gone it is found, too, and not for certain.</summary>
    [Theory]
    [InlineData("FAT32", "nothing", true)]
    [InlineData("FAT32", "boot sector", true)]
    [InlineData("FAT32", "backup", true)]
    [InlineData("FAT32", "first table", true)]
    [InlineData("FAT32", "second table", true)]
    [InlineData("FAT32", "first table, backup", true)]
    [InlineData("FAT32", "first table, boot sector", true)]
    [InlineData("FAT32", "first table, second table", false)]
    [InlineData("FAT32", "boot sector, backup", false)]
    [InlineData("FAT16", "nothing", true)]
    [InlineData("FAT16", "first table", true)]
    [InlineData("FAT16", "second table", true)]
    [InlineData("FAT16", "first table, second table", false)]
    [InlineData("FAT16", "boot sector", false)]
    public async Task A_fat_volume_is_found_by_what_is_left_of_it(string kind, string lost, bool isCertain)
    {
        using var scratch = new Scratch();
        const long first = 4096;
        var sizeMiB = kind == "FAT32" ? 48 : 32;
        var part = await Made(scratch, $"mkfs.fat -F {kind[3..]} -h FIRST PART", first, sizeMiB * MiB);
        var boot = FatBootSector.TryRead(part)!;
        var table = boot.ReservedSectors * boot.BytesPerSector;
        var tableBytes = (int)(boot.FatSectors * boot.BytesPerSector);
        if (lost.Contains("boot sector")) part.AsSpan(0, Sector).Clear();
        if (lost.Contains("backup")) part.AsSpan(boot.BackupSector * Sector, Sector).Clear();
        if (lost.Contains("first table")) part.AsSpan(table, Sector).Clear();
        if (lost.Contains("second table")) part.AsSpan(table + tableBytes, Sector).Clear();
        var disk = new byte[64 * MiB];
        part.CopyTo(disk, first * Sector);

        var volumes = VolumeSearch.Thorough(SearchedDisk.Of(new MemoryBlocks(disk)), []).Volumes;

        volumes.Count(volume => volume.IsCertain).ShouldBe(isCertain ? 1 : 0);
        if (isCertain) volumes.ShouldHaveSingleItem().Range.Start.ShouldBe(first * Sector);
    }

    [Fact]
    public async Task A_fat_volume_without_its_first_sector_is_found_by_the_copy()
    {
        using var scratch = new Scratch();
        const long first = 4096;
        var part = await Made(scratch, "mkfs.fat -F 32 -h FIRST PART", first, 48 * MiB);
        part.AsSpan(0, Sector).Clear();
        var disk = new byte[64 * MiB];
        part.CopyTo(disk, first * Sector);
        var found = VolumeSearch.Quick(SearchedDisk.Of(new MemoryBlocks(disk)), []).Volumes.ShouldHaveSingleItem();
        found.Range.ShouldBe(new ByteRange(first * Sector, part.Length));
        found.IsCertain.ShouldBeTrue();
        found.Evidence.HasFlag(VolumeEvidence.BootSector).ShouldBeFalse();
    }

    /// <summary>Its two tables are all that is left: enough to show it, too little to be certain.</summary>
    [Fact]
    public async Task A_fat_volume_without_both_sectors_is_found_by_its_tables()
    {
        using var scratch = new Scratch();
        const long first = 2048;
        var part = await Made(scratch, "mkfs.fat -F 32 -h FIRST PART", first, 48 * MiB);
        await File.WriteAllBytesAsync(scratch["part"], part);
        await Tool.MustAgree("mmd", "-i", scratch["part"], "::EFI");
        part = await File.ReadAllBytesAsync(scratch["part"]);
        part.AsSpan(0, Sector).Clear();
        part.AsSpan(6 * Sector, Sector).Clear();
        var disk = new byte[64 * MiB];
        part.CopyTo(disk, first * Sector);
        var found = VolumeSearch.Quick(SearchedDisk.Of(new MemoryBlocks(disk)), []).Volumes.ShouldHaveSingleItem();
        found.Name.ShouldBe("FAT32");
        found.Range.Start.ShouldBe(first * Sector);
        found.Range.Length.ShouldBeInRange(part.Length - (8 * Sector), part.Length);
        found.IsCertain.ShouldBeFalse();
    }

    [Fact]
    public void Random_bytes_are_no_volume_and_stop_nothing()
    {
        var random = new Random(15);
        var bytes = new byte[4 * MiB];
        random.NextBytes(bytes);
        VolumeSearch.Thorough(SearchedDisk.Of(new MemoryBlocks(bytes)), []).Volumes.ShouldBeEmpty();
    }

    /// <summary>Sectors that say what they are, and lie about everything else.</summary>
    [Fact]
    public void Hostile_sectors_are_survived()
    {
        byte[][] beginnings =
        [
            [0xEB, 0x52, 0x90, .. "NTFS    "u8],
            [0xEB, 0x58, 0x90, .. "MSDOS5.0"u8],
            [0xEB, 0x76, 0x90, .. "EXFAT   "u8],
            [0xEB, 0x58, 0x90, .. "-FVE-FS-"u8],
            [0, 0, 0, .. "ReFS\0\0\0\0"u8],
            [.. "FILE"u8],
            [.. "XFSB"u8],
            [.. "EFI PART"u8],
            [.. "LUKS"u8, 0xBA, 0xBE]
        ];
        var hostile = Gen.Select(Gen.Int[0, beginnings.Length - 1], Gen.Byte.Array[512], Gen.Int[0, 2047], Gen.Bool);
        hostile.Sample((kind, noise, at, isSparse) =>
        {
            var disk = new byte[2 * MiB];
            if (isSparse) noise.AsSpan(64).Clear();
            noise.CopyTo(disk, at * Sector);
            beginnings[kind].CopyTo(disk, at * Sector);
            (disk[(at * Sector) + 510], disk[(at * Sector) + 511]) = (0x55, 0xAA);
            foreach (var volume in VolumeSearch.Thorough(SearchedDisk.Of(new MemoryBlocks(disk)), []).Volumes)
            {
                volume.Range.Start.ShouldBeGreaterThanOrEqualTo(0);
                volume.Range.End.ShouldBeLessThanOrEqualTo(disk.Length);
                if (!volume.IsForeign) volume.IsCertain.ShouldBeFalse();
            }
        }, iter: 2000);
    }

    /// <summary>A disk that says at every sector that a volume begins there.</summary>
    [Fact]
    public void A_disk_full_of_beginnings_is_survived_in_bounded_time()
    {
        var disk = new byte[8 * MiB];
        for (var at = 0; at < disk.Length; at += Sector)
        {
            "SWAPSPACE2"u8.CopyTo(disk.AsSpan(at + 0x1F6));
            disk[at + 4] = 1;
        }

        VolumeSearch.Thorough(SearchedDisk.Of(new MemoryBlocks(disk)), []).Volumes.Count.ShouldBeLessThanOrEqualTo(4096);
    }

    [Fact]
    public void Holes_of_an_image_are_not_read()
    {
        using var scratch = new Scratch();
        using (var file = File.Create(scratch["sparse"])) file.SetLength(4L << 40);
        using var disk = DiskFile.Open(scratch["sparse"]);
        var searched = new SearchedDisk(disk, disk.NextData, _ => { });
        VolumeSearch.Thorough(searched, []).Volumes.ShouldBeEmpty();
        disk.Counters.BytesRead.ShouldBeLessThan(200L * MiB);
    }

    private static async Task<byte[]> Made(Scratch scratch, string command, long firstSector, int bytes)
    {
        using (var file = File.Create(scratch["part"])) file.SetLength(bytes);
        var line = command.Replace("FIRST", $"{firstSector}").Replace("PART", scratch["part"]);
        await Tool.MustAgree("sh", "-c", $"PATH=$PATH:/sbin:/usr/sbin {line}");
        return await File.ReadAllBytesAsync(scratch["part"], TestContext.Current.CancellationToken);
    }
}

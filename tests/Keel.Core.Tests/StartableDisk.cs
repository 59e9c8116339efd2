using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Volumes;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Makes disks with one active volume and the stand-in boot manager on it, in many shapes.</summary>
internal static class StartableDisk
{
    private const int SectorBytes = 512, MiB = 1024 * 1024;

    /// <summary>An NTFS disk.</summary>
    public static string Ntfs(
        Scratch scratch,
        string name,
        int clusterBytes = 4096,
        int volumeMiB = 24,
        long startSector = 2048,
        LoaderKind loader = LoaderKind.BootManager,
        bool largeRecords = false,
        Action<IVolume>? prepare = null,
        Action<IVolume>? fill = null)
    {
        var path = Blank(scratch, name, startSector, volumeMiB, PartitionTypes.Ntfs);
        var range = new ByteRange(startSector * SectorBytes, (long)volumeMiB * MiB);
        using (var image = DiskFile.OpenForWriting(path))
        {
            Formatter.Ntfs(image, range, "Startable", clusterBytes, recordSectorBytes: largeRecords ? 4096 : SectorBytes);
            if (largeRecords) CountSmallSectors(image, range);
        }

        PracticeDisk.Change(path, machine =>
        {
            var volume = machine.Volumes.Single();
            if (prepare is not null) volume.Edit(prepare);
            volume.Edit(fill ?? (files => files.WriteFile(@"\bootmgr", StandInManager.MakeBios("10.0.1.1"))));
            BootSectorEditor.WriteCode(volume, KeelBootCode.Ntfs(loader));
        });
        return path;
    }

    /// <summary>A FAT32 disk, filled by mtools.</summary>
    public static async Task<string> Fat32(
        Scratch scratch,
        string name,
        int clusterBytes,
        LoaderKind loader = LoaderKind.BootManager,
        bool fragmented = false,
        byte[]? manager = null)
    {
        const int startSector = 2048;
        var sectors = Math.Max(70_000L * clusterBytes / SectorBytes, 100_000);
        var volumeMiB = (int)(sectors / 2048) + 1;
        var path = Blank(scratch, name, startSector, volumeMiB, 0x0C);
        var at = $"{path}@@{startSector * SectorBytes}";
        await Tool.MustAgree(
            "mkfs.fat",
            "-F",
            "32",
            "-s",
            $"{clusterBytes / SectorBytes}",
            "-h",
            $"{startSector}",
            "--offset",
            $"{startSector}",
            path,
            $"{volumeMiB * 1024}");
        await File.WriteAllBytesAsync(scratch["manager"], manager ?? StandInManager.MakeBios("10.0.1.1"));
        await File.WriteAllBytesAsync(scratch["filler"], new byte[clusterBytes]);
        var script =
            $"cd {scratch.Folder}; export MTOOLS_SKIP_CHECK=1; mcopy -i {at} filler '::A file with quite a long name.txt'; "
                + $"mattrib -i {at} +h '::A file with quite a long name.txt'; ";
        if (fragmented)
        {
            script +=
                $"mmd -i {at} ::gaps; for n in $(seq 1 40); do mcopy -i {at} filler ::gaps/f$n; done; for n in $(seq 1 2 40); "
                    + $"do mdel -i {at} ::gaps/f$n; done; ";
        }

        script += $"mcopy -i {at} manager ::{(loader == LoaderKind.BootManager ? "bootmgr" : "ntldr")}";
        await Tool.MustAgree("bash", "-c", script);
        PracticeDisk.Change(path, machine => BootSectorEditor.WriteCode(machine.Volumes.Single(), KeelBootCode.Fat32(loader)));
        return path;
    }

    /// <summary>A FAT12 or FAT16 disk, filled by mtools.</summary>
    public static async Task<string> OldFat(Scratch scratch, int bits, int clusterBytes, bool fragmented, LoaderKind loader)
    {
        const int startSector = 63;
        var clusters = bits == 12 ? 3000 : 20_000;
        var kiB = (long)clusters * clusterBytes / 1024;
        var path = Blank(scratch, "disk", startSector, (int)(kiB / 1024) + 1, bits == 12 ? (byte)0x01 : (byte)0x06);
        var at = $"{path}@@{startSector * SectorBytes}";
        await Tool.MustAgree(
            "mkfs.fat",
            "-F",
            $"{bits}",
            "-s",
            $"{clusterBytes / SectorBytes}",
            "-h",
            $"{startSector}",
            "--offset",
            $"{startSector}",
            path,
            $"{kiB}");
        await File.WriteAllBytesAsync(scratch["manager"], StandInManager.MakeBios("10.0.1.1"));
        await File.WriteAllBytesAsync(scratch["filler"], new byte[clusterBytes]);
        var script =
            $"cd {scratch.Folder}; export MTOOLS_SKIP_CHECK=1; mcopy -i {at} filler '::A file with quite a long name.txt'; ";
        if (fragmented)
        {
            script +=
                $"mmd -i {at} ::gaps; for n in $(seq 1 40); do mcopy -i {at} filler ::gaps/f$n; done; for n in $(seq 1 2 40); "
                    + $"do mdel -i {at} ::gaps/f$n; done; ";
        }

        script += $"mcopy -i {at} manager ::{(loader == LoaderKind.BootManager ? "bootmgr" : "ntldr")}";
        await Tool.MustAgree("bash", "-c", script);
        PracticeDisk.Change(path, machine =>
        {
            var volume = machine.Volumes.Single();
            BootSectorEditor.WriteCode(volume, KeelBootCode.For(volume.Kind, loader)!);
        });
        return path;
    }

    /// <summary>Leaves only gaps of one size free: the next large file has as many pieces as it takes gaps.</summary>
    public static void LeaveGaps(IVolume files, int gapBytes, int count)
    {
        files.CreateFolder(@"\gaps");
        for (var number = 0; number < count; number++) files.WriteFile($@"\gaps\f{number:0000}", new byte[gapBytes]);
        var size = 4 * MiB;
        for (var number = 0; size >= gapBytes; number++)
        {
            try
            {
                files.WriteFile($@"\gaps\rest{number}", new byte[size]);
            }
            catch (UnreadableException)
            {
                if (files.FileExists($@"\gaps\rest{number}")) files.Delete($@"\gaps\rest{number}");
                size /= 2;
            }
        }

        var choice = new Random(3);
        for (var number = 0; number < count; number++)
        {
            if (choice.Next(2) == 0) files.Delete($@"\gaps\f{number:0000}");
        }
    }

    private static string Blank(Scratch scratch, string name, long startSector, int volumeMiB, byte type)
    {
        var path = scratch[name];
        using (var file = File.Create(path)) file.SetLength((startSector * SectorBytes) + ((volumeMiB + 1L) * MiB));
        var record = new MasterBootRecord(new byte[SectorBytes]) { Signature = 0xB4AC0001, HasMark = true };
        record.SetCode(KeelBootCode.Mbr());
        record.SetSlot(
            0,
            new PartitionSlot(PartitionSlot.ActiveMark, type, (uint)startSector, (uint)(volumeMiB * (MiB / SectorBytes))));
        using var image = DiskFile.OpenForWriting(path);
        image.Write(0, record.ToBytes());
        return path;
    }

    /// <summary>
    /// mkntfs makes records of 4096 bytes only for sectors of that size; here the same volume counts in sectors of 512.
    /// </summary>
    private static void CountSmallSectors(DiskFile image, ByteRange range)
    {
        var sector = image.ReadBytes(range.Start, SectorBytes);
        var total = (BitConverter.ToInt64(sector, 0x28) * 8) + 7;
        BitConverter.TryWriteBytes(sector.AsSpan(0xB), (ushort)SectorBytes);
        sector[0xD] *= 8;
        BitConverter.TryWriteBytes(sector.AsSpan(0x28), total);
        image.Write(range.Start, sector);
        image.Write(range.Start + (total * SectorBytes), sector);
    }
}

using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.BootCode;

/// <summary>Changes the boot sector of a volume: code, hidden sectors, geometry, and the backup copy with them.</summary>
public static class BootSectorEditor
{
    private const int SectorBytes = 512;
    private const int JumpBytes = 3;
    private const ushort UsualSectorsPerTrack = 63, UsualHeads = 255;
    private const int LeastReservedSectors = KeelBootCode.FatSecondSector + (KeelBootCode.FatSecondBytes / SectorBytes);

    /// <summary>Writes boot code, keeps the parameters, and puts hidden sectors, geometry and mark right.</summary>
    /// <param name="volume">The volume.</param>
    /// <param name="code">Laid out as <see cref="BootSectorCopy.TryRead"/> gives it; only the code of it is taken.</param>
    /// <exception cref="RefusedException">The file system is not one that keel has boot code for.</exception>
    public static void WriteCode(DiskVolume volume, ReadOnlySpan<byte> code)
    {
        var kind = volume.Kind;
        if (KeelBootCode.For(kind, LoaderKind.BootManager) is null)
        {
            throw new RefusedException(
                $"{volume} gets no boot code.",
                $"It holds {(kind == FileSystemKind.Unknown ? "no known file system" : FileSystemProbe.Name(kind))}; boot code "
                    + "is there for NTFS and FAT.",
                "Name the system volume with --volume.");
        }

        var sector = volume.Blocks.ReadBytes(0, SectorBytes);
        if (sector.At<BootParameterRecord>(0).BytesPerSector != SectorBytes)
        {
            throw new RefusedException(
                $"{volume} gets no boot code.",
                "Its file system has sectors larger than 512 bytes, and BIOS boot code reads 512.",
                "Such a disk is started through UEFI.");
        }

        code[..JumpBytes].CopyTo(sector);
        WriteRebuilt(volume, kind, sector, code);
    }

    /// <summary>Puts hidden sectors, geometry and mark right, and nothing else.</summary>
    public static void PutPlaceRight(DiskVolume volume)
    {
        var sector = volume.Blocks.ReadBytes(0, SectorBytes);
        SetPlace(volume, sector);
        WriteFirst(volume, volume.Kind, sector);
    }

    /// <summary>Sets where $MFT and its mirror begin, in clusters, and puts the place right.</summary>
    internal static void SetMft(DiskVolume volume, long mftCluster, long mirrorCluster)
    {
        var sector = volume.Blocks.ReadBytes(0, SectorBytes);
        var record = sector.At<NtfsBootSectorRecord>(0);
        (record.MftCluster, record.MftMirrorCluster) = (mftCluster, mirrorCluster);
        sector.Put(0, record);
        WriteSector(volume, FileSystemKind.Ntfs, sector);
    }

    /// <summary>Writes a whole first sector, with its backup; the place in it is put right.</summary>
    internal static void WriteSector(DiskVolume volume, FileSystemKind kind, byte[] sector)
    {
        SetPlace(volume, sector);
        WriteFirst(volume, kind, sector);
    }

    /// <summary>Writes parameters with boot code, the place put right.</summary>
    internal static void WriteRebuilt(DiskVolume volume, FileSystemKind kind, byte[] sector, ReadOnlySpan<byte> code)
    {
        var codeAt = BootSectorCopy.CodeAt(kind);
        code[codeAt..BootSectorMark.At].CopyTo(sector.AsSpan(codeAt));
        SetPlace(volume, sector);
        if (kind == FileSystemKind.Ntfs)
            volume.Blocks.Write(SectorBytes, code[SectorBytes..]);
        else if (kind == FileSystemKind.Fat32)
            WriteSecondStage(volume, sector, code[SectorBytes..]);
        WriteFirst(volume, kind, sector);
    }

    private static void SetPlace(DiskVolume volume, Span<byte> sector)
    {
        var head = sector.At<BootParameterRecord>(0);
        head.HiddenSectors = (uint)(volume.Partition.Range.Start / volume.Blocks.SectorBytes);
        if (head.SectorsPerTrack == 0) head.SectorsPerTrack = UsualSectorsPerTrack;
        if (head.Heads == 0) head.Heads = UsualHeads;
        sector.Put(0, head);
        BootSectorMark.Put(sector);
    }

    private static void WriteSecondStage(DiskVolume volume, ReadOnlySpan<byte> sector, ReadOnlySpan<byte> second)
    {
        if (FatBootSector.TryRead(sector) is not { } fat || fat.ReservedSectors < LeastReservedSectors)
        {
            throw new RefusedException(
                $"{volume} gets no boot code.",
                $"Its file system reserves too few sectors; boot code needs {LeastReservedSectors}.",
                "Copy its files off, and format it with the usual 32 reserved sectors.");
        }

        // Rare programs put the file system's own sectors where boot code has its second stage.
        if (IsInSecondStage(fat.InfoSector) || IsInSecondStage(fat.BackupSector))
        {
            throw new RefusedException(
                $"{volume} gets no boot code.",
                $"Its file system has a sector of its own among sectors {KeelBootCode.FatSecondSector} to "
                    + $"{LeastReservedSectors - 1}, where boot code needs room.",
                "Copy its files off, and format it in the usual way.");
        }

        volume.Blocks.Write(KeelBootCode.FatSecondSector * SectorBytes, second);
    }

    private static bool IsInSecondStage(int sector) => sector is >= KeelBootCode.FatSecondSector and < LeastReservedSectors;

    private static void WriteFirst(DiskVolume volume, FileSystemKind kind, byte[] sector)
    {
        volume.Blocks.Write(0, sector);
        if (BackupOffset(volume.Blocks, kind, sector) is { } backup) volume.Blocks.Write(backup, sector);
    }

    /// <summary>Where the backup of sector 0 stands, in bytes from the volume's start; null where there is none.</summary>
    internal static long? BackupOffset(IReadableBlocks volume, FileSystemKind kind, ReadOnlySpan<byte> sector)
    {
        long? offset = kind switch
        {
            FileSystemKind.Ntfs when NtfsBootSector.TryRead(sector) is { IsPlausible: true } ntfs
                => ntfs.TotalSectors > volume.LengthBytes / ntfs.BytesPerSector ? null : ntfs.TotalSectors * ntfs.BytesPerSector,
            FileSystemKind.Fat32
                when FatBootSector.TryRead(sector) is { BackupSector: > 0 } fat && fat.BackupSector < fat.ReservedSectors
                    => (long)fat.BackupSector * fat.BytesPerSector,
            _ => null
        };
        return offset <= volume.LengthBytes - SectorBytes ? offset : null;
    }
}

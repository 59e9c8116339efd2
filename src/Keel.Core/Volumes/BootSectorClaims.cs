using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Volumes;

/// <summary>What a boot sector says of its volume, held against what stands at the places that it names.</summary>
internal sealed class BootSectorClaims(IReadableBlocks volume)
{
    private const int NtfsMedia = 0xF8, UsualIndexBytes = 4096;
    private const uint FatEntryMask = 0x0FFFFFFF, ReservedEntry = 0x0FFFFF00;
    private const int SlotBytes = 32, FolderBytes = 512, FolderAttribute = 0x10, VolumeLabel = 0x08, LongName = 0x0F;
    private readonly Dictionary<(long At, int Bytes), byte[]?> read = [];

    /// <summary>How many of its claims hold.</summary>
    public int Holding(bool isNtfs, byte[] sector) => (isNtfs ? OfNtfs(sector) : OfFat(sector)).Count(holds => holds);

    /// <summary>Whether the file system itself stands where the sector says, whatever else does.</summary>
    public bool IsBorneOut(bool isNtfs, byte[] sector) => isNtfs
        ? NtfsBootSector.TryRead(sector) is { IsPlausible: true } ntfs && IsMft(ntfs, ntfs.MftCluster)
        : FatBootSector.TryRead(sector) is { } fat && IsTable(fat, sector) && IsRoot(fat);

    /// <summary>Whether a FAT volume has about as many clusters as its tables are made for.</summary>
    public static bool TotalFits(IReadableBlocks volume, FatBootSector boot)
    {
        const int twelve = 12, sixteen = 16, thirtyTwo = 32, slackSectors = 4, leastShare = 4;
        if (boot.TotalSectors * boot.BytesPerSector > volume.LengthBytes) return false;
        var bits = boot.Kind switch { FileSystemKind.Fat12 => twelve, FileSystemKind.Fat16 => sixteen, _ => thirtyTwo };
        var needed = (((boot.ClusterCount + 2) * bits / 8) + boot.BytesPerSector - 1) / boot.BytesPerSector;
        return needed <= boot.FatSectors && (boot.FatSectors <= slackSectors || needed * leastShare >= boot.FatSectors);
    }

    private IEnumerable<bool> OfNtfs(byte[] sector)
    {
        if (NtfsBootSector.TryRead(sector) is not { IsPlausible: true } boot) yield break;
        yield return true;
        yield return sector[0x15] == NtfsMedia;
        yield return IsMft(boot, boot.MftCluster);
        yield return IsMft(boot, boot.MftMirrorCluster);
        var record = RecordAt(boot, boot.MftCluster);
        yield return record?.ClusterBytes is not { } bytes || bytes == boot.ClusterBytes;
        yield return record is null || record.SizeBytes == boot.RecordBytes;
        yield return boot.IndexBytes == Math.Max(UsualIndexBytes, boot.BytesPerSector);
        yield return BitmapFits(boot);
        var end = boot.TotalSectors * boot.BytesPerSector;
        yield return boot.TotalSectors > 0 && end <= volume.LengthBytes - boot.BytesPerSector;
        yield return Read(end, NtfsBootSector.Size) is { } copy && copy.AsSpan(3).StartsWith(NtfsBootSector.Oem);
    }

    private IEnumerable<bool> OfFat(byte[] sector)
    {
        if (FatBootSector.TryRead(sector) is not { Kind: FileSystemKind.Fat32 } boot) yield break;
        const int infoMark = 0x41615252;
        yield return true;
        yield return IsTable(boot, sector);
        yield return IsSecondTable(boot);
        yield return IsRoot(boot);
        yield return LeadsOn(boot);
        yield return boot.RootCluster >= 2 && boot.RootCluster < boot.ClusterCount + 2 && boot.RootEntries == 0;
        yield return boot.TotalSectors * boot.BytesPerSector <= volume.LengthBytes;
        yield return TotalFits(volume, boot);
        yield return BitConverter.ToUInt16(sector, 0x13) == 0 && BitConverter.ToUInt16(sector, 0x2A) == 0;
        yield return Read((long)boot.InfoSector * boot.BytesPerSector, sizeof(uint)) is { } info
            && BinaryPrimitives.ReadInt32LittleEndian(info) == infoMark;
        yield return boot.BackupSector > 0
            && Read((long)boot.BackupSector * boot.BytesPerSector, NtfsBootSector.Size) is { } copy
            && FatBootSector.TryRead(copy) is not null;
    }

    private bool IsMft(NtfsBootSector boot, long cluster) =>
        RecordAt(boot, cluster) is { } record && record.IsNamed("$MFT") && record.FirstDataCluster == boot.MftCluster;

    private NtfsFileRecord? RecordAt(NtfsBootSector boot, long cluster, int number = 0) =>
        cluster > 0 && cluster < volume.LengthBytes / boot.ClusterBytes
            && Read((cluster * boot.ClusterBytes) + (number * (long)boot.RecordBytes), NtfsFileRecord.LargestBytes) is { } bytes
            ? NtfsFileRecord.TryRead(bytes)
            : null;

    /// <summary>
    /// $Bitmap has a bit for each cluster: it knows how large the file system is, also after it was made smaller.
    /// </summary>
    private bool BitmapFits(NtfsBootSector boot)
    {
        const int bitmapRecord = 6, bits = 8, slackBytes = 16;
        if (RecordAt(boot, boot.MftCluster, bitmapRecord) is not { LongestData: { } bytes } record || !record.IsNamed("$Bitmap"))
            return false;
        var clusters = boot.TotalSectors * boot.BytesPerSector / boot.ClusterBytes;
        var needed = (clusters + bits - 1) / bits;
        return needed <= bytes && bytes <= needed + slackBytes;
    }

    private bool IsTable(FatBootSector boot, byte[] sector)
    {
        if (boot.Kind != FileSystemKind.Fat32)
            return Read((long)boot.ReservedSectors * boot.BytesPerSector, 1) is { } low && low[0] == sector[0x15];
        var entry = Entry(boot, 0);
        return entry is { } first && (byte)first == sector[0x15] && (first & ReservedEntry) == ReservedEntry;
    }

    /// <summary>
    /// The table begins anew behind itself, where there are said to be two; where there is said to be one, it does not.
    /// </summary>
    private bool IsSecondTable(FatBootSector boot)
    {
        const int compared = 512;
        var first = (long)boot.ReservedSectors * boot.BytesPerSector;
        var isThere = Read(first, compared) is { } one
            && Read(first + (boot.FatSectors * boot.BytesPerSector), compared) is { } two
            && one.AsSpan(0, sizeof(ulong)).SequenceEqual(two.AsSpan(0, sizeof(ulong)));
        return isThere == (boot.FatCount == 2);
    }

    /// <summary>The root folder has a cluster, and what is in it looks like slots of a folder.</summary>
    private bool IsRoot(FatBootSector boot)
    {
        if (boot.Kind != FileSystemKind.Fat32) return true;
        return (Entry(boot, boot.RootCluster) & FatEntryMask) is > 0
            && SlotsOf(boot, boot.RootCluster) is { } slots
            && IsRootFolder(slots);
    }

    /// <summary>The first folder in the root names itself in its own first slot.</summary>
    private bool LeadsOn(FatBootSector boot)
    {
        if (SlotsOf(boot, boot.RootCluster) is not { } slots) return false;
        for (var at = 0; at < slots.Length && slots[at] != 0; at += SlotBytes)
        {
            if (slots[at + 11] == LongName || (slots[at + 11] & FolderAttribute) == 0 || slots[at] == 0xE5) continue;
            var cluster = ClusterOf(slots.AsSpan(at));
            return SlotsOf(boot, cluster) is { } inside
                && inside.AsSpan().StartsWith(".          "u8)
                && ClusterOf(inside) == cluster;
        }

        return true;
    }

    private static uint ClusterOf(ReadOnlySpan<byte> slot) =>
        ((uint)BinaryPrimitives.ReadUInt16LittleEndian(slot[20..]) << 16) | BinaryPrimitives.ReadUInt16LittleEndian(slot[26..]);

    private static bool IsRootFolder(byte[] slots)
    {
        const int impossible = 0xC0;
        if (slots[0] == '.') return false;      // only folders below the root begin with themselves
        if (slots[0] == 0) return true;
        for (var at = 0; at < slots.Length && slots[at] != 0; at += SlotBytes)
        {
            var attributes = slots[at + 11];
            if ((attributes & impossible) != 0) return false;
            if (attributes != LongName && (attributes & VolumeLabel) == 0 && slots[at] < 0x20 && slots[at] != 0x05) return false;
        }

        return true;
    }

    private byte[]? SlotsOf(FatBootSector boot, uint cluster) => cluster < 2 || cluster >= boot.ClusterCount + 2
        ? null
        : Read((boot.DataSector + ((cluster - 2L) * boot.SectorsPerCluster)) * boot.BytesPerSector, FolderBytes);

    private uint? Entry(FatBootSector boot, uint cluster) =>
        Read(((long)boot.ReservedSectors * boot.BytesPerSector) + (cluster * (long)sizeof(uint)), sizeof(uint)) is { } bytes
            ? BinaryPrimitives.ReadUInt32LittleEndian(bytes)
            : null;

    private byte[]? Read(long at, int bytes)
    {
        if (at < 0 || at + bytes > volume.LengthBytes) return null;
        if (!read.TryGetValue((at, bytes), out var known)) read[(at, bytes)] = known = volume.TryRead(at, bytes);
        return known;
    }
}

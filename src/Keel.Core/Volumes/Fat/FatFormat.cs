using System.Buffers.Binary;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Fat;

/// <summary>
/// Puts an empty FAT file system on a partition (Microsoft FAT specification 1.03): FAT32 where it is large enough for that, else
/// FAT16 or FAT12.
/// </summary>
public static class FatFormat
{
    private const long MiB = 1024 * 1024;
    private const int Fat12Clusters = 4085, Fat16Clusters = 65525, Margin = 16;
    private const int WideReserved = 32, InfoSector = 1, BackupSector = 6, RootEntries = 512, FatCopies = 2;
    private const byte FixedDisk = 0xF8, SignatureOfSerial = 0x29;

    /// <summary>Formats; what was there is gone from the partition's view.</summary>
    /// <param name="partition">The partition, as blocks of its own.</param>
    /// <param name="label">The volume's label.</param>
    /// <param name="serial">The volume's serial number.</param>
    /// <param name="hiddenSectors">The partition's first sector on its disk.</param>
    /// <param name="kind">FAT12, 16 or 32; null for what fits the size.</param>
    /// <param name="clusterBytes">A power of two, at least a sector; null for what is usual.</param>
    /// <exception cref="RefusedException">The partition is too small or too large for that.</exception>
    public static FileSystemKind Format(
        IWritableBlocks partition,
        string label,
        uint serial,
        uint hiddenSectors,
        FileSystemKind? kind = null,
        int? clusterBytes = null)
    {
        if (label.Length > FatNames.ShortBytes
            || label.Any(letter => letter is < ' ' or > '~' || "\"*+,./:;<=>?[\\]|".Contains(letter, StringComparison.Ordinal)))
        {
            throw new WrongUsageException(
                $"\"{label}\" can't be the label.",
                "A label has at most 11 letters, digits or spaces.",
                "Choose another one.");
        }

        var plan = Choose(partition, kind, clusterBytes)
            ?? throw new RefusedException(
                "The partition was not formatted.",
                $"It has {partition.LengthBytes} bytes, and that does not suit "
                    + $"{FileSystemProbe.Name(kind ?? FileSystemKind.Fat32)}.",
                "Choose another partition, or another size of clusters.");
        var sector = BootSector(plan, label.ToUpperInvariant(), serial, hiddenSectors);
        Clear(partition, plan);
        partition.Write(0, sector);
        if (plan.Kind == FileSystemKind.Fat32)
        {
            var info = Info(plan);
            partition.Write((long)BackupSector * plan.SectorBytes, sector);
            partition.Write((long)InfoSector * plan.SectorBytes, info);
            partition.Write((long)(BackupSector + 1) * plan.SectorBytes, info);
        }

        WriteStart(partition, plan, label.ToUpperInvariant());
        return plan.Kind;
    }

    private static Plan? Choose(IWritableBlocks partition, FileSystemKind? kind, int? clusterBytes)
    {
        var sectorBytes = partition.SectorBytes;
        var total = Math.Min(partition.LengthBytes / sectorBytes, uint.MaxValue);
        FileSystemKind[] kinds = kind is { } one ? [one] : [FileSystemKind.Fat32, FileSystemKind.Fat16, FileSystemKind.Fat12];
        foreach (var candidate in kinds)
        {
            for (var bytes = clusterBytes
                ?? Math.Max(sectorBytes, UsualCluster(candidate, partition.LengthBytes)); bytes >= sectorBytes; bytes /= 2)
            {
                if (Plan.Of(candidate, sectorBytes, total, bytes / sectorBytes) is { } plan) return plan;
                if (clusterBytes is not null) break;
            }

            for (var bytes = clusterBytes is null ? sectorBytes : 64 * 1024; bytes <= 32 * 1024; bytes *= 2)
            {
                if (Plan.Of(candidate, sectorBytes, total, bytes / sectorBytes) is { } plan) return plan;
            }
        }

        return null;
    }

    private static int UsualCluster(FileSystemKind kind, long bytes) => kind == FileSystemKind.Fat32
        ? bytes switch
        {
            <= 64 * MiB => 512,
            <= 128 * MiB => 1024,
            <= 256 * MiB => 2048,
            <= 8192 * MiB => 4096,
            <= 16384 * MiB => 8192,
            <= 32768 * MiB => 16384,
            _ => 32768
        }
        : bytes switch { <= 16 * MiB => 2048, <= 128 * MiB => 2048, <= 256 * MiB => 4096, _ => 8192 };

    private static byte[] BootSector(Plan plan, string label, uint serial, uint hiddenSectors)
    {
        var wide = plan.Kind == FileSystemKind.Fat32;
        var sector = new byte[plan.SectorBytes];
        ((ReadOnlySpan<byte>)[0xEB, wide ? (byte)0x58 : (byte)0x3C, 0x90]).CopyTo(sector);
        "KEEL1.0 "u8.CopyTo(sector.AsSpan(3));
        Word(sector, 0xB, plan.SectorBytes);
        sector[0xD] = (byte)plan.PerCluster;
        Word(sector, 0xE, plan.Reserved);
        sector[0x10] = FatCopies;
        Word(sector, 0x11, wide ? 0 : RootEntries);
        if (plan.Total <= ushort.MaxValue && !wide) Word(sector, 0x13, (int)plan.Total);
        else Long(sector, 0x20, (uint)plan.Total);
        sector[0x15] = FixedDisk;
        Word(sector, 0x18, 63);
        Word(sector, 0x1A, 255);
        Long(sector, 0x1C, hiddenSectors);
        if (wide)
        {
            Long(sector, 0x24, (uint)plan.FatSectors);
            Long(sector, 0x2C, FatTable.FirstCluster);
            Word(sector, 0x30, InfoSector);
            Word(sector, 0x32, BackupSector);
        }
        else
        {
            Word(sector, 0x16, (int)plan.FatSectors);
        }

        var tail = sector.AsSpan(wide ? 0x40 : 0x24);
        tail[0] = 0x80;
        tail[2] = SignatureOfSerial;
        BinaryPrimitives.WriteUInt32LittleEndian(tail[3..], serial);
        Encoding.ASCII.GetBytes((label.Length > 0 ? label : "NO NAME").PadRight(FatNames.ShortBytes)).CopyTo(tail[7..]);
        Encoding.ASCII.GetBytes(FileSystemProbe.Name(plan.Kind).PadRight(8)).CopyTo(tail[18..]);
        // Started as boot code, it hands back to the firmware (int 18h) and halts.
        ((ReadOnlySpan<byte>)[0xCD, 0x18, 0xF4, 0xEB, 0xFD]).CopyTo(sector.AsSpan(wide ? 0x5A : 0x3E));
        sector[0x1FE] = 0x55;
        sector[0x1FF] = 0xAA;
        return sector;
    }

    private static byte[] Info(Plan plan)
    {
        var info = new byte[plan.SectorBytes];
        Long(info, 0, 0x41615252);
        Long(info, 484, 0x61417272);
        Long(info, 488, (uint)plan.Clusters - 1);                // the root folder has one
        Long(info, 492, FatTable.FirstCluster + 1);
        Long(info, 508, 0xAA550000);
        return info;
    }

    /// <summary>Zeroes everything before the clusters, and the first cluster.</summary>
    private static void Clear(IWritableBlocks partition, Plan plan)
    {
        var end = (plan.DataSector + plan.PerCluster) * plan.SectorBytes;
        var zeros = new byte[64 * 1024];
        for (long at = 0; at < end; at += zeros.Length)
            partition.Write(at, zeros.AsSpan(0, (int)Math.Min(zeros.Length, end - at)));
    }

    /// <summary>The first entries of both tables, and the label in the root folder.</summary>
    private static void WriteStart(IWritableBlocks partition, Plan plan, string label)
    {
        byte[] start = plan.Kind switch
        {
            FileSystemKind.Fat12 => [FixedDisk, 0xFF, 0xFF],
            FileSystemKind.Fat16 => [FixedDisk, 0xFF, 0xFF, 0xFF],
            _ => [FixedDisk, 0xFF, 0xFF, 0x0F, 0xFF, 0xFF, 0xFF, 0x0F, 0xFF, 0xFF, 0xFF, 0x0F]
        };
        for (var copy = 0; copy < FatCopies; copy++)
            partition.Write((plan.Reserved + (copy * plan.FatSectors)) * plan.SectorBytes, start);
        if (label.Length == 0) return;
        var slot = FatEntry.NewSlot(
            Encoding.ASCII.GetBytes(label.PadRight(FatNames.ShortBytes)),
            FileMarks.None,
            0,
            0,
            TimeProvider.System.GetLocalNow());
        slot[11] = 0x08;
        var root = plan.Kind == FileSystemKind.Fat32 ? plan.DataSector : plan.Reserved + (FatCopies * plan.FatSectors);
        partition.Write(root * plan.SectorBytes, slot);
    }

    private static void Word(byte[] sector, int at, int value) =>
        BinaryPrimitives.WriteUInt16LittleEndian(sector.AsSpan(at), (ushort)value);

    private static void Long(byte[] sector, int at, uint value) =>
        BinaryPrimitives.WriteUInt32LittleEndian(sector.AsSpan(at), value);

    /// <summary>The measures of a new file system, in sectors where nothing else is said.</summary>
    private sealed record Plan(
        FileSystemKind Kind,
        int SectorBytes,
        long Total,
        int PerCluster,
        int Reserved,
        long FatSectors,
        long DataSector,
        long Clusters)
    {
        /// <summary>
        /// The measures for that size of clusters; null where the number of clusters would make it another kind.
        /// </summary>
        public static Plan? Of(FileSystemKind kind, int sectorBytes, long total, int perCluster)
        {
            if (perCluster is < 1 or > 128) return null;
            var wide = kind == FileSystemKind.Fat32;
            var reserved = wide ? WideReserved : 1;
            var root = wide ? 0 : RootEntries * FatEntry.SlotBytes / sectorBytes;
            var bits = kind switch { FileSystemKind.Fat12 => 12, FileSystemKind.Fat16 => 16, _ => 32 };
            var fat = 1L;
            long clusters;
            while (true)
            {
                clusters = (total - reserved - root - (FatCopies * fat)) / perCluster;
                var needed = (((clusters + FatTable.FirstCluster) * bits) + (sectorBytes * 8) - 1) / (sectorBytes * 8);
                if (needed <= fat) break;
                fat = needed;
            }

            var (least, most) = kind switch
            {
                FileSystemKind.Fat12 => (1, Fat12Clusters - Margin),
                FileSystemKind.Fat16 => (Fat12Clusters + Margin, Fat16Clusters - Margin),
                _ => (Fat16Clusters + Margin, 0x0FFFFFF0)
            };
            return clusters >= least && clusters <= most
                ? new Plan(kind, sectorBytes, total, perCluster, reserved, fat, reserved + root + (FatCopies * fat), clusters)
                : null;
        }
    }
}

using System.Runtime.CompilerServices;
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
    private const byte FixedDisk = 0xF8, FirstDrive = 0x80;
    private const ushort UsualSectorsPerTrack = 63, UsualHeads = 255;

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
        var isWide = plan.Kind == FileSystemKind.Fat32;
        var tailAt = isWide ? FatTailRecord.WideAt : FatTailRecord.At;
        var codeAt = tailAt + Unsafe.SizeOf<FatTailRecord>();
        var sector = new byte[plan.SectorBytes];
        sector.Put(0, Head(plan, codeAt, hiddenSectors));
        if (isWide) sector.Put(FatWideRecord.At, Wide(plan));
        sector.Put(tailAt, new FatTailRecord
        {
            Drive = FirstDrive,
            Mark = FatTailRecord.ExtendedMark,
            Serial = serial,
            Label = Bytes11.Of(Encoding.ASCII.GetBytes((label.Length > 0 ? label : "NO NAME").PadRight(FatNames.ShortBytes))),
            FileSystem = Bytes8.Of(Encoding.ASCII.GetBytes(FileSystemProbe.Name(plan.Kind).PadRight(8)))
        });

        // Started as boot code, it hands back to the firmware (int 18h) and halts.
        ((ReadOnlySpan<byte>)[0xCD, 0x18, 0xF4, 0xEB, 0xFD]).CopyTo(sector.AsSpan(codeAt));
        BootSectorMark.Put(sector);
        return sector;
    }

    private static BootParameterRecord Head(Plan plan, int codeAt, uint hiddenSectors)
    {
        var isWide = plan.Kind == FileSystemKind.Fat32;
        var isSmall = plan.Total <= ushort.MaxValue && !isWide;
        var head = new BootParameterRecord
        {
            Oem = Bytes8.Of("KEEL1.0 "u8),
            BytesPerSector = (ushort)plan.SectorBytes,
            SectorsPerCluster = (byte)plan.PerCluster,
            ReservedSectors = (ushort)plan.Reserved,
            Fats = FatCopies,
            RootEntries = (ushort)(isWide ? 0 : RootEntries),
            SmallSectors = (ushort)(isSmall ? plan.Total : 0),
            Media = FixedDisk,
            SectorsPerFat = (ushort)(isWide ? 0 : plan.FatSectors),
            SectorsPerTrack = UsualSectorsPerTrack,
            Heads = UsualHeads,
            HiddenSectors = hiddenSectors,
            LargeSectors = isSmall ? 0 : (uint)plan.Total
        };
        head.SetJump(codeAt);
        return head;
    }

    private static FatWideRecord Wide(Plan plan) => new()
    {
        SectorsPerFat = (uint)plan.FatSectors,
        RootCluster = FatTable.FirstCluster,
        InfoSector = InfoSector,
        BackupSector = BackupSector
    };

    private static byte[] Info(Plan plan)
    {
        var info = new byte[plan.SectorBytes];
        info.Put(0, new FatInfoRecord
        {
            Lead = FatInfoRecord.LeadMark,
            Structure = FatInfoRecord.StructureMark,
            FreeClusters = (uint)plan.Clusters - 1,             // the root folder has one
            NextFree = FatTable.FirstCluster + 1,
            Trail = FatInfoRecord.TrailMark
        });
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
            FatEntry.LabelMark,
            firstCluster: 0,
            sizeBytes: 0,
            TimeProvider.System.GetLocalNow());
        var root = plan.Kind == FileSystemKind.Fat32 ? plan.DataSector : plan.Reserved + (FatCopies * plan.FatSectors);
        partition.Write(root * plan.SectorBytes, slot);
    }

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

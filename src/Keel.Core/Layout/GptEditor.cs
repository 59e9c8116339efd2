using System.IO.Hashing;
using Keel.Core.Blocks;

namespace Keel.Core.Layout;

/// <summary>Mends a GUID partition table: either copy from the other, and the protective master boot record.</summary>
/// <remarks>Never writes a byte of a partition that any copy of the table names.</remarks>
public static class GptEditor
{
    private const uint ProtectiveStart = 1;
    private const long PrimarySector = 1, UsualEntriesSector = 2;

    /// <summary>Writes primary and backup anew from whichever copy is sound, the backup at the end of the disk.</summary>
    public static GptEditResult RewriteBothCopies(IWritableBlocks disk) => RewriteBothCopies(disk, (header, _) => header);

    /// <summary>Gives a partition another type, in both copies.</summary>
    public static GptEditResult SetType(IWritableBlocks disk, int number, Guid type) =>
        RewriteBothCopies(disk, (header, entries) =>
    {
        var at = (number - 1) * (int)header.EntryBytes;
        if (number < 1 || at + header.EntryBytes > entries.Length) return null;
        var entry = entries.At<GptEntryRecord>(at);
        entries.Put(at, entry with { Type = type });
        return header;
    });

    /// <summary>Gives a partition other attributes, in both copies.</summary>
    internal static GptEditResult SetAttributes(IWritableBlocks disk, int number, ulong attributes) =>
        RewriteBothCopies(disk, (header, entries) =>
    {
        var at = (number - 1) * (int)header.EntryBytes;
        if (number < 1 || at + header.EntryBytes > entries.Length) return null;
        var entry = entries.At<GptEntryRecord>(at);
        entries.Put(at, entry with { Attributes = attributes });
        return header;
    });

    /// <summary>Lets a partition end with another sector, in both copies.</summary>
    internal static GptEditResult SetEnd(IWritableBlocks disk, int number, long lastSector) =>
        RewriteBothCopies(disk, (header, entries) =>
    {
        var at = (number - 1) * (int)header.EntryBytes;
        if (number < 1 || at + header.EntryBytes > entries.Length) return null;
        var entry = entries.At<GptEntryRecord>(at);
        if (lastSector < entry.FirstSector) return null;
        entries.Put(at, entry with { LastSector = lastSector });
        return header;
    });

    /// <summary>Adds a partition in the first entry that is free, in both copies.</summary>
    internal static GptEditResult Add(IWritableBlocks disk, Guid type, Guid id, string name, SectorRange range) =>
        RewriteBothCopies(disk, (header, entries) =>
    {
        for (var at = 0; at + header.EntryBytes <= entries.Length; at += (int)header.EntryBytes)
        {
            if (entries.At<GptEntryRecord>(at).IsUsed) continue;
            entries.Put(at, new GptEntryRecord
            {
                Type = type,
                Id = id,
                FirstSector = range.First,
                LastSector = range.Last,
                Name = GptEntryRecord.NameField.Of(name)
            });
            return header;
        }

        return null;
    });

    /// <summary>Gives the disk another GUID, in both copies.</summary>
    internal static GptEditResult SetDiskGuid(IWritableBlocks disk, Guid guid) =>
        RewriteBothCopies(disk, (header, _) => header with { DiskGuid = guid });

    /// <summary>Writes a whole table anew, both copies, and the protection in sector 0.</summary>
    /// <param name="disk">The disk.</param>
    /// <param name="guid">The disk's GUID.</param>
    /// <param name="partitions">Its partitions; their numbers are those of the entries, from 1 to 128.</param>
    internal static GptEditResult WriteNew(IWritableBlocks disk, Guid guid, IReadOnlyList<Partition> partitions)
    {
        var entries = new byte[GptHeader.UsualEntryBytes * (int)GptHeader.UsualEntryCount];
        foreach (var partition in partitions)
        {
            entries.Put((partition.Number - 1) * GptHeader.UsualEntryBytes, new GptEntryRecord
            {
                Type = partition.GptType,
                Id = partition.Id,
                FirstSector = partition.Range.Start / disk.SectorBytes,
                LastSector = (partition.Range.End / disk.SectorBytes) - 1,
                Attributes = partition.Attributes,
                Name = GptEntryRecord.NameField.Of(partition.Name)
            });
        }

        var entriesSectors = (entries.Length + disk.SectorBytes - 1) / disk.SectorBytes;
        var last = (disk.LengthBytes / disk.SectorBytes) - 1;
        var primary = new GptHeader(
            GptHeader.MinimumBytes,
            PrimarySector,
            last,
            UsualEntriesSector + entriesSectors,
            last - entriesSectors - 1,
            guid,
            UsualEntriesSector,
            GptHeader.UsualEntryCount,
            GptHeader.UsualEntryBytes,
            Crc32.HashToUInt32(entries),
            CrcMatches: true);
        var backup = primary with { OwnSector = last, OtherSector = PrimarySector, EntriesSector = last - entriesSectors };
        var named = partitions
            .Select(partition => new SectorRange(
                partition.Range.Start / disk.SectorBytes,
                (partition.Range.End / disk.SectorBytes) - 1))
            .ToList();
        if (!HasRoom(primary, entriesSectors, named, last) || !HasRoom(backup, entriesSectors, named, last))
            return GptEditResult.NoRoom;
        WriteCopy(disk, primary, entries);
        WriteCopy(disk, backup, entries);
        WriteProtective(disk);
        return GptEditResult.Done;
    }

    /// <summary>Writes the master boot record that keeps old programs off a GPT; its code and signature stay.</summary>
    public static void WriteProtective(IWritableBlocks disk)
    {
        var record = new MasterBootRecord(disk.ReadBytes(0, MasterBootRecord.Size)) { HasMark = true };
        var sectors = (uint)Math.Min((disk.LengthBytes / disk.SectorBytes) - 1, uint.MaxValue);
        record.SetSlot(0, new PartitionSlot(0, PartitionTypes.Protective, ProtectiveStart, sectors));
        for (var index = 1; index < MasterBootRecord.SlotCount; index++) record.ClearSlot(index);
        disk.Write(0, record.ToBytes());
    }

    private static GptEditResult RewriteBothCopies(IWritableBlocks disk, Func<GptHeader, byte[], GptHeader?> change)
    {
        var last = (disk.LengthBytes / disk.SectorBytes) - 1;
        var copies = GptCopy.All(disk);
        if (copies.FirstOrDefault(copy => copy.IsSound) is not { Header: { } found, Entries: { } entries })
            return GptEditResult.NoSoundCopy;
        if (copies.Any(copy =>
            copy.IsSound && (copy.Header!.DiskGuid != found.DiskGuid || !copy.Entries.AsSpan().SequenceEqual(entries))))
        {
            return GptEditResult.CopiesDiffer;
        }

        var before = copies.SelectMany(copy => copy.Partitions(last)).ToList();
        if (change(found, entries) is not { } header) return GptEditResult.NoSoundCopy;
        var after = new GptCopy(header, entries, null).Partitions(last).ToList();
        var named = before.Where(old => !after.Exists(fresh => fresh.First == old.First)).Concat(after).ToList();

        var entriesSectors = (entries.Length + disk.SectorBytes - 1) / disk.SectorBytes;
        var backupEntries = last - entriesSectors;
        var stoodAt = found.OwnSector == PrimarySector ? found.OtherSector : found.OwnSector;
        var common = header with
        {
            EntriesCrc = Crc32.HashToUInt32(entries),
            LastUsableSector = stoodAt == last ? Math.Min(header.LastUsableSector, backupEntries - 1) : backupEntries - 1
        };
        var primary = common with
        {
            OwnSector = PrimarySector,
            OtherSector = last,
            EntriesSector = found.OwnSector == PrimarySector ? found.EntriesSector : UsualEntriesSector
        };
        var backup = common with { OwnSector = last, OtherSector = PrimarySector, EntriesSector = backupEntries };
        if (!HasRoom(primary, entriesSectors, named, last) || !HasRoom(backup, entriesSectors, named, last))
            return GptEditResult.NoRoom;
        WriteCopy(disk, primary, entries);
        WriteCopy(disk, backup, entries);
        return GptEditResult.Done;
    }

    /// <summary>Whether header and entries of a copy touch no partition, nor each other, nor the ends of the disk.</summary>
    private static bool HasRoom(GptHeader copy, long entriesSectors, List<SectorRange> named, long lastSector)
    {
        var header = new SectorRange(copy.OwnSector, copy.OwnSector);
        var entries = new SectorRange(copy.EntriesSector, copy.EntriesSector + entriesSectors - 1);
        return entries.First > PrimarySector && entries.Last <= lastSector && !entries.Overlaps(header)
            && !named.Exists(partition => partition.Overlaps(header) || partition.Overlaps(entries));
    }

    private static void WriteCopy(IWritableBlocks disk, GptHeader header, byte[] entries)
    {
        disk.Write(header.EntriesSector * disk.SectorBytes, entries);
        disk.Write(header.OwnSector * disk.SectorBytes, header.ToSector(disk.SectorBytes));
    }
}

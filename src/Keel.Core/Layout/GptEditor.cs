using System.IO.Hashing;
using Keel.Core.Blocks;

namespace Keel.Core.Layout;

/// <summary>Mends a GUID partition table: either copy from the other, and the protective master boot record.</summary>
public static class GptEditor
{
    private const uint ProtectiveStart = 1;

    /// <summary>Writes primary and backup anew from whichever copy is sound, the backup at the end of the disk. False where neither is.</summary>
    public static bool RewriteBothCopies(IWritableBlocks disk) => RewriteBothCopies(disk, (header, _) => header);

    /// <summary>Gives a partition another type, in both copies. False where neither is sound, or there is no such partition.</summary>
    public static bool SetType(IWritableBlocks disk, int number, Guid type) => RewriteBothCopies(disk, (header, entries) =>
    {
        var at = (number - 1) * (int)header.EntryBytes;
        if (number < 1 || at + header.EntryBytes > entries.Length) return null;
        type.TryWriteBytes(entries.AsSpan(at));
        return header;
    });

    /// <summary>Gives the disk another GUID, in both copies.</summary>
    internal static bool SetDiskGuid(IWritableBlocks disk, Guid guid) => RewriteBothCopies(disk, (header, _) => header with { DiskGuid = guid });

    private static bool RewriteBothCopies(IWritableBlocks disk, Func<GptHeader, byte[], GptHeader?> change)
    {
        var last = (disk.LengthBytes / disk.SectorBytes) - 1;
        var primary = GptCopy.Read(disk, 1);
        var source = primary.IsSound ? primary : GptCopy.Read(disk, last);
        if (source is not { IsSound: true, Header: { } found, Entries: { } entries } || change(found, entries) is not { } header) return false;
        var entriesSectors = (entries.Length + disk.SectorBytes - 1) / disk.SectorBytes;
        var common = header with
        {
            EntriesCrc = Crc32.HashToUInt32(entries),
            LastUsableSector = Math.Max(header.LastUsableSector, last - entriesSectors - 1)
        };
        WriteCopy(disk, common with { OwnSector = 1, OtherSector = last, EntriesSector = 2 }, entries);
        WriteCopy(disk, common with { OwnSector = last, OtherSector = 1, EntriesSector = last - entriesSectors }, entries);
        return true;
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

    private static void WriteCopy(IWritableBlocks disk, GptHeader header, byte[] entries)
    {
        disk.Write(header.EntriesSector * disk.SectorBytes, entries);
        disk.Write(header.OwnSector * disk.SectorBytes, header.ToSector(disk.SectorBytes));
    }
}

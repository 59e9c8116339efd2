using System.IO.Hashing;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Layout;

namespace Keel.Core.Drills;

/// <summary>Writes the GPT of a practice disk: EFI system, reserved, Windows and recovery partition.</summary>
internal static class PracticeGpt
{
    private const int EntryBytes = GptHeader.UsualEntryBytes, EntryCount = (int)GptHeader.UsualEntryCount;
    private static readonly Guid DiskGuid = new("b4ac0042-0000-4000-8000-0000000d15c0");

    public static void Write(DiskFile image, PracticeLayout layout)
    {
        var entries = new byte[EntryBytes * EntryCount];
        Entry(entries, 0, PartitionTypes.GptEfiSystem, layout.System, "EFI system partition", image.SectorBytes);
        Entry(entries, 1, PartitionTypes.GptReserved, layout.Reserved!.Value, "Microsoft reserved partition", image.SectorBytes);
        Entry(entries, 2, PartitionTypes.GptBasicData, layout.Windows, "Brackwater OS", image.SectorBytes);
        Entry(entries, 3, PartitionTypes.GptRecovery, layout.Recovery!.Value, "Recovery", image.SectorBytes);
        var entriesSectors = EntryBytes * EntryCount / image.SectorBytes;
        var last = (image.LengthBytes / image.SectorBytes) - 1;
        var header = new GptHeader(
            GptHeader.MinimumBytes,
            1,
            last,
            2 + entriesSectors,
            last - entriesSectors - 1,
            DiskGuid,
            2,
            EntryCount,
            EntryBytes,
            Crc32.HashToUInt32(entries),
            CrcMatches: true);
        image.Write(2L * image.SectorBytes, entries);
        image.Write(image.SectorBytes, header.ToSector(image.SectorBytes));
        GptEditor.WriteProtective(image);
        GptEditor.RewriteBothCopies(image);
    }

    private static void Entry(byte[] entries, int index, Guid type, ByteRange range, string name, int sectorBytes)
    {
        entries.Put(index * EntryBytes, new GptEntryRecord
        {
            Type = type,
            Id = new Guid($"b4ac0042-0000-4000-8000-00000000000{index + 1}"),
            FirstSector = range.Start / sectorBytes,
            LastSector = (range.End / sectorBytes) - 1,
            Name = GptEntryRecord.NameField.Of(name)
        });
    }
}

using Keel.Core.Blocks;

namespace Keel.Core.Volumes.Fat;

/// <summary>A file or folder as its folder lists it: a short slot of 32 bytes, and before it those of the long name.</summary>
/// <param name="Name">The long name, or the short one where there is none.</param>
/// <param name="ShortName">11 bytes as stored: 8 and 3, filled with spaces.</param>
/// <param name="Marks">Its attributes.</param>
/// <param name="FirstCluster">Its first cluster; 0 where it has none.</param>
/// <param name="SizeBytes">Its size, in bytes.</param>
/// <param name="Written">When it was last written, in the local time of wherever that was.</param>
/// <param name="FirstSlot">Index of the first of its slots in the folder.</param>
/// <param name="SlotCount">How many slots it has, the short one included.</param>
internal sealed record FatEntry(
    string Name,
    byte[] ShortName,
    FileMarks Marks,
    uint FirstCluster,
    uint SizeBytes,
    DateTimeOffset? Written,
    int FirstSlot,
    int SlotCount)
{
    public const int SlotBytes = 32;
    public const byte Deleted = 0xE5;

    /// <summary>The mark of a slot that holds the volume's label.</summary>
    public const FileMarks LabelMark = (FileMarks)0x08;

    private const FileMarks Stored = FileMarks.Changeable | FileMarks.Folder | LabelMark;
    private const byte LowerBase = 0x08, LowerExtension = 0x10;

    public bool IsFolder => (Marks & FileMarks.Folder) != FileMarks.None;

    /// <summary>Index of the short slot.</summary>
    public int ShortSlot => FirstSlot + SlotCount - 1;

    public VolumeFile ToFile() => new(Name, IsFolder, IsFolder ? 0 : SizeBytes, Marks);

    /// <summary>Reads a short slot.</summary>
    /// <param name="slot">The short slot.</param>
    /// <param name="longName">The name of the long slots before it; null where there are none that belong to it.</param>
    /// <param name="firstSlot">The first of its slots in the folder.</param>
    /// <param name="slotCount">How many slots it takes.</param>
    public static FatEntry Read(ReadOnlySpan<byte> slot, string? longName, int firstSlot, int slotCount)
    {
        var record = slot.At<FatSlotRecord>(0);
        var shortName = ((ReadOnlySpan<byte>)record.Name).ToArray();
        return new FatEntry(
            longName
                ?? FatNames.ShortText(
                    shortName,
                    lowerBase: (record.Case & LowerBase) != 0,
                    lowerExtension: (record.Case & LowerExtension) != 0),
            shortName,
            (FileMarks)record.Marks & Stored & ~LabelMark,
            record.FirstCluster,
            record.SizeBytes,
            WrittenIn(record.WrittenDate, record.WrittenTime),
            firstSlot,
            slotCount);
    }

    /// <summary>A new short slot.</summary>
    public static byte[] NewSlot(
        ReadOnlySpan<byte> shortName,
        FileMarks marks,
        uint firstCluster,
        uint sizeBytes,
        DateTimeOffset now)
    {
        var slot = new byte[SlotBytes];
        slot.Put(0, new FatSlotRecord
        {
            Name = Bytes11.Of(shortName),
            Marks = (byte)(marks & Stored),
            FirstCluster = firstCluster,
            SizeBytes = sizeBytes,
            CreatedTime = Time(now),
            CreatedDate = Date(now),
            AccessedDate = Date(now),
            WrittenTime = Time(now),
            WrittenDate = Date(now)
        });
        return slot;
    }

    /// <summary>Notes which parts of a short name are written small.</summary>
    public static void SetCase(Span<byte> slot, FatShortName name)
    {
        var record = slot.At<FatSlotRecord>(0);
        record.Case = name.NeedsLong
            ? (byte)0
            : (byte)((name.LowerBase ? LowerBase : 0) | (name.LowerExtension ? LowerExtension : 0));
        slot.Put(0, record);
    }

    public static void SetPlace(Span<byte> slot, uint firstCluster, uint sizeBytes)
    {
        var record = slot.At<FatSlotRecord>(0);
        record.FirstCluster = firstCluster;
        record.SizeBytes = sizeBytes;
        slot.Put(0, record);
    }

    public static void SetMarks(Span<byte> slot, FileMarks marks)
    {
        var record = slot.At<FatSlotRecord>(0);
        record.Marks = (byte)(((FileMarks)record.Marks & ~FileMarks.Changeable) | (marks & FileMarks.Changeable));
        slot.Put(0, record);
    }

    /// <summary>Notes that the file was written.</summary>
    public static void Touch(Span<byte> slot, DateTimeOffset now)
    {
        var record = slot.At<FatSlotRecord>(0);
        (record.AccessedDate, record.WrittenTime, record.WrittenDate) = (Date(now), Time(now), Date(now));
        slot.Put(0, record);
    }

    /// <summary>A slot that is a volume's label.</summary>
    public static bool IsLabel(ReadOnlySpan<byte> slot)
    {
        var marks = (FileMarks)slot.At<FatSlotRecord>(0).Marks;
        return (marks & (LabelMark | FileMarks.Folder)) == LabelMark && !FatNames.IsLongSlot(slot);
    }

    /// <summary>A date and time as stored, which is local to wherever it was written; null where it is none.</summary>
    private static DateTimeOffset? WrittenIn(int date, int time)
    {
        var (year, month, day) = (1980 + (date >> 9), (date >> 5) & 15, date & 31);
        var (hour, minute, second) = (time >> 11, (time >> 5) & 63, (time & 31) * 2);
        return month is < 1 or > 12
            || day < 1
            || day > DateTime.DaysInMonth(year, month)
            || hour > 23
            || minute > 59
            || second > 59
            ? null
            : new DateTimeOffset(year, month, day, hour, minute, second, TimeSpan.Zero);
    }

    private static ushort Date(DateTimeOffset now) =>
        (ushort)((Math.Clamp(now.Year - 1980, 0, 127) << 9) | (now.Month << 5) | now.Day);

    private static ushort Time(DateTimeOffset now) => (ushort)((now.Hour << 11) | (now.Minute << 5) | (now.Second / 2));
}

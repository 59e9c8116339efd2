using System.Runtime.InteropServices;

namespace Keel.Core.EventLogs;

/// <summary>How a chunk of an event log begins: 128 bytes, then the heads of its lists of names and templates.</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct EventLogChunkRecord
{
    /// <summary>"ElfChnk" and a zero.</summary>
    public const ulong UsualMark = 0x006B6E6843666C45;

    /// <summary>The size of a chunk, in bytes.</summary>
    public const int ChunkBytes = 0x10000;

    /// <summary>Where the lists of names and of templates begin, and the records behind them.</summary>
    public const int NamesAt = 128, TemplatesAt = 384, RecordsAt = 512;

    /// <summary>How many lists of names and of templates there are.</summary>
    public const int NameLists = 64, TemplateLists = 32;

    /// <summary>How many bytes of the header the checksum is over, before the lists.</summary>
    public const int SummedBytes = 120;

    public ulong Mark;
    public ulong FirstPlace;
    public ulong LastPlace;
    public ulong FirstNumber;
    public ulong LastNumber;
    public uint HeaderBytes;
    public uint LastRecordAt;
    public uint FreeAt;                 // behind the last record
    public uint RecordsChecksum;        // CRC-32
    public EventLogGap64 Unused;
    public uint Flags;
    public uint Checksum;               // CRC-32
}

using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>The head of the table of metadata (MS-VHDX 2.6.1.1, "Metadata Table Header").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct VhdxMetadataTableRecord
{
    public const int TableBytes = 64 * 1024, MostEntries = 2047;

    public Bytes8 Mark;                 // "metadata"
    public ushort Reserved;
    public ushort EntryCount;
    private readonly ulong unused1;
    private readonly ulong unused2;
    private readonly uint unused3;

    public static ReadOnlySpan<byte> MarkBytes => "metadata"u8;
}

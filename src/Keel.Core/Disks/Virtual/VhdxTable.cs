using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>
/// The table of a VHDX's blocks: an entry of eight bytes each, and one for a sector bitmap behind every chunk of them (MS-VHDX
/// 2.5, "BAT").
/// </summary>
internal sealed class VhdxTable(VhdxContents contents, Func<IReadableBlocks> tables)
{
    public const int EntryBytes = sizeof(ulong), PageBytes = 4096, BitmapBytes = MiB;
    private const int MiB = 1024 * 1024, StateBits = 7;

    /// <summary>States of a block that has bytes in the file: all of them, or those that its bitmap has.</summary>
    public const int Whole = 6, Partly = 7;

    /// <summary>A block that was never written, so that a parent's bytes count.</summary>
    public const int Absent = 0;

    /// <summary>Where a block's entry stands in the file.</summary>
    public long EntryAt(long block) => contents.Table.Start + ((block + (block / contents.ChunkBlocks)) * EntryBytes);

    /// <summary>Where the entry of a block's sector bitmap stands in the file.</summary>
    public long BitmapEntryAt(long block) =>
        contents.Table.Start + ((((block / contents.ChunkBlocks) + 1) * (contents.ChunkBlocks + 1)) - 1) * EntryBytes;

    /// <summary>The state of a block, and where it lies in the file.</summary>
    public (int State, long At) Block(long block) => Entry(EntryAt(block), contents.BlockBytes, $"block {block}");

    /// <summary>Where the sector bitmap of a block's chunk lies in the file; null for none.</summary>
    public long? Bitmap(long block) =>
        Entry(BitmapEntryAt(block), BitmapBytes, "a sector bitmap") is { State: Whole, At: var at } ? at : null;

    /// <summary>An entry for what lies at a place of the file, a multiple of 1 MiB.</summary>
    public static ulong EntryOf(int state, long at) => (ulong)at | (uint)state;

    /// <summary>Parts an entry.</summary>
    public static (int State, long At) Parted(ulong entry) => ((int)(entry & StateBits), (long)(entry >> 20) * MiB);

    private (int State, long At) Entry(long entryAt, int bytes, string what)
    {
        ulong entry = 0;
        tables().Read(entryAt, MemoryMarshal.AsBytes(new Span<ulong>(ref entry)));
        var (state, at) = Parted(entry);
        if (state is Whole or Partly && (at < MiB || at > tables().LengthBytes - bytes))
            throw VirtualDiskErrors.Damaged("VHDX", $"{what} lies behind the end of the file: it is cut short");
        return (state, at);
    }
}

using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>A VHD, read and written through its blocks.</summary>
/// <remarks>
/// A new block is put where the footer stood, in an order in which the file is whole at every moment: a new footer behind it,
/// then the block, then its entry in the table.
/// </remarks>
internal sealed class VhdDisk : IVirtualDisk
{
    private const int Sector = 512, EntryBytes = sizeof(uint);
    private const uint Unused = 0xFFFFFFFF;
    private readonly IBackingFile file;
    private readonly VhdContents contents;
    private readonly IReadableBlocks? parent;
    private readonly CachedBlocks tables;
    private readonly int blockBytes, bitmapBytes;
    private long footerAt;
    private bool isChecked;

    /// <param name="file">The file that it lies in.</param>
    /// <param name="contents">What the file says of itself.</param>
    /// <param name="parent">The disk that it differs from; null for none.</param>
    public VhdDisk(IBackingFile file, VhdContents contents, IReadableBlocks? parent)
    {
        this.file = file;
        this.contents = contents;
        this.parent = parent;
        tables = new CachedBlocks(file, limitBlocks: 256);
        footerAt = contents.FooterAt;
        blockBytes = (int)(contents.Header?.BlockBytes.Value ?? 0);
        bitmapBytes = (((blockBytes / Sector / 8) + Sector - 1) / Sector) * Sector;
    }

    /// <summary>What it calls itself; a child that differs from it remembers it.</summary>
    public Guid Id => contents.Footer.Id;

    /// <inheritdoc/>
    public long LengthBytes => contents.DiskBytes;

    /// <inheritdoc/>
    public int SectorBytes => Sector;

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        PieceReading.Read(this, offsetBytes, buffer, PieceAt, file.Read, parent);
    }

    /// <inheritdoc/>
    public void ReadBack(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        PieceReading.Read(this, offsetBytes, buffer, PieceAt, file.ReadBack, parent);
    }

    /// <inheritdoc/>
    public bool HasParent => parent is not null;

    /// <inheritdoc/>
    public long NextData(long offsetBytes)
    {
        if (contents.Header is null) return Math.Min(file.NextData(offsetBytes), LengthBytes);
        if (parent is not null) return offsetBytes;
        while (offsetBytes < LengthBytes && Entry(offsetBytes / blockBytes) == Unused)
            offsetBytes = ((offsetBytes / blockBytes) + 1) * blockBytes;
        return Math.Min(offsetBytes, LengthBytes);
    }

    /// <inheritdoc/>
    public void Write(long offsetBytes, ReadOnlySpan<byte> data)
    {
        this.CheckRange(offsetBytes, data.Length);
        BeginWriting();
        if (contents.Header is null)
        {
            file.Write(offsetBytes, data);
            return;
        }

        while (data.Length > 0)
        {
            var within = (int)(offsetBytes % blockBytes);
            var count = Math.Min(data.Length, blockBytes - within);
            WriteInBlock(offsetBytes / blockBytes, within, data[..count]);
            data = data[count..];
            offsetBytes += count;
        }
    }

    /// <inheritdoc/>
    public void Flush() => file.Flush();

    private DiskPiece PieceAt(long offsetBytes, int most)
    {
        if (contents.Header is null) return new DiskPiece(PieceSource.File, offsetBytes, most);
        var within = (int)(offsetBytes % blockBytes);
        var count = Math.Min(most, blockBytes - within);
        if (BlockAt(offsetBytes / blockBytes) is not { } block) return new DiskPiece(Elsewhere, 0, count);
        var bitmap = Bitmap(block);
        var first = within / Sector;
        var sectors = SectorBitmap.RunLength(first, ((within + count - 1) / Sector) - first + 1, IsSet);
        count = Math.Min(count, ((first + sectors) * Sector) - within);
        return new DiskPiece(IsSet(first) ? PieceSource.File : Elsewhere, block + bitmapBytes + within, count);

        bool IsSet(int sector) => (bitmap[sector / 8] & SectorBitmap.HighestFirst(sector)) != 0;
    }

    /// <summary>Where sectors come from that were never written to this disk.</summary>
    private PieceSource Elsewhere => parent is null ? PieceSource.Zeros : PieceSource.Parent;

    /// <summary>Where a block begins in the file, with its bitmap; null where it has none.</summary>
    private long? BlockAt(long block)
    {
        var entry = Entry(block);
        if (entry == Unused) return null;
        var at = (long)entry * Sector;
        if (at + bitmapBytes + blockBytes <= file.LengthBytes) return at;
        throw VirtualDiskErrors.Damaged("VHD", $"block {block} lies behind the end of the file: it is cut short");
    }

    private long EntryAt(long block) => (long)contents.Header!.Value.TableAt.Value + (block * EntryBytes);

    private uint Entry(long block)
    {
        var entry = default(BigUInt32);
        tables.Read(EntryAt(block), MemoryMarshal.AsBytes(new Span<BigUInt32>(ref entry)));
        return entry.Value;
    }

    private byte[] Bitmap(long block) => tables.ReadBytes(block, bitmapBytes);

    private void WriteInBlock(long number, int within, ReadOnlySpan<byte> data)
    {
        if (within % Sector != 0 || data.Length % Sector != 0)
        {
            WriteWholeSectors(number, within, data);
        }
        else if (BlockAt(number) is { } block)
        {
            WriteOver(block, within, data);
        }
        else if (parent is not null || data.ContainsAnyExcept((byte)0))
        {
            AddBlock(number, within, data);
        }
    }

    /// <summary>A piece of a sector is written with the rest of the sector, as it reads now.</summary>
    private void WriteWholeSectors(long number, int within, ReadOnlySpan<byte> data)
    {
        var first = within / Sector * Sector;
        var end = (within + data.Length + Sector - 1) / Sector * Sector;
        var sectors = this.ReadBytes((number * blockBytes) + first, end - first);
        data.CopyTo(sectors.AsSpan(within - first));
        WriteInBlock(number, first, sectors);
    }

    private void WriteOver(long block, int within, ReadOnlySpan<byte> data)
    {
        file.Write(block + bitmapBytes + within, data);
        var bitmap = Bitmap(block);
        if (!Mark(bitmap, within, data.Length)) return;
        file.Flush();
        file.Write(block, bitmap);
        tables.Forget(block, bitmap.Length);
    }

    private void AddBlock(long number, int within, ReadOnlySpan<byte> data)
    {
        var block = footerAt;
        var bitmap = new byte[bitmapBytes];
        if (parent is null) Mark(bitmap, 0, blockBytes);
        else Mark(bitmap, within, data.Length);
        var oldEnd = file.LengthBytes;
        var end = block + bitmapBytes + blockBytes;
        file.Grow(end + VhdFooterRecord.Bytes);
        tables.Forget(block, (int)(oldEnd - block));
        Span<byte> footer = stackalloc byte[VhdFooterRecord.Bytes];
        footer.Put(0, contents.Footer);
        file.Write(end, footer);
        file.Flush();
        file.Write(block, bitmap);
        file.Write(block + bitmapBytes + within, data);
        file.Flush();
        footerAt = end;
        var entry = BigUInt32.Of((uint)(block / Sector));
        file.Write(EntryAt(number), MemoryMarshal.AsBytes(new ReadOnlySpan<BigUInt32>(in entry)));
        file.Flush();
        tables.Forget(EntryAt(number), EntryBytes);
        tables.Forget(block, bitmapBytes);
    }

    /// <summary>Marks sectors as written. Gives whether some were not.</summary>
    private static bool Mark(byte[] bitmap, int within, int count)
    {
        var isNew = false;
        for (var sector = within / Sector; sector < (within + count) / Sector; sector++)
        {
            var mask = SectorBitmap.HighestFirst(sector);
            isNew |= (bitmap[sector / 8] & mask) == 0;
            bitmap[sector / 8] |= mask;
        }

        return isNew;
    }

    /// <summary>Before the first write: no two blocks may lie in one place, else a write to one would change the other.</summary>
    private void BeginWriting()
    {
        if (isChecked) return;
        RefuseUnwritable();
        isChecked = true;
    }

    /// <inheritdoc/>
    public void RefuseUnwritable()
    {
        if (contents.Footer.SavedState != 0) throw VirtualDiskErrors.Saved();
        CheckTable();
    }

    /// <inheritdoc/>
    public void CheckTable()
    {
        if (contents.Header is null) return;
        const int chunkEntries = 16 * 1024;
        var places = new List<long>();
        var total = (LengthBytes + blockBytes - 1) / blockBytes;
        var chunk = new BigUInt32[Math.Min(chunkEntries, total)];
        for (var first = 0L; first < total; first += chunk.Length)
        {
            var entries = chunk.AsSpan(0, (int)Math.Min(chunk.Length, total - first));
            file.Read(EntryAt(first), MemoryMarshal.AsBytes(entries));
            foreach (var entry in entries)
            {
                if (entry.Value != Unused) places.Add((long)entry.Value * Sector);
            }

            VirtualDiskErrors.CheckCount("VHD", places, bitmapBytes + blockBytes, file.LengthBytes);
        }

        var table = new ByteRange(EntryAt(0), total * EntryBytes);
        VirtualDiskErrors.CheckPlaces("VHD", places, bitmapBytes + blockBytes, [table], footerAt);
    }
}

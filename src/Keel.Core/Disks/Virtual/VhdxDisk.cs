using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>A VHDX, read and written through its blocks.</summary>
/// <remarks>
/// A log that was left is replayed in memory while the disk is only looked at, and in the file before the first write. A new
/// block is written behind the end of the file first; its entry then goes into the table through the log, as the specification
/// wants.
/// </remarks>
internal sealed class VhdxDisk : IVirtualDisk
{
    private const int MiB = 1024 * 1024;
    private readonly IBackingFile file;
    private readonly VhdxHeaders headers;
    private readonly IReadOnlyList<VhdxLogWrite> pending;
    private readonly VhdxContents contents;
    private readonly VhdxTable table;
    private readonly IReadableBlocks? parent;
    private IReadableBlocks view;
    private CachedBlocks tables;
    private bool isWriting;

    private VhdxDisk(
        IBackingFile file,
        VhdxHeaders headers,
        (IReadOnlyList<VhdxLogWrite> Writes, long FileBytes) log,
        Func<ParentClaim, IReadableBlocks> parent)
    {
        this.file = file;
        this.headers = headers;
        pending = log.Writes;
        view = pending.Count == 0 ? file : new ReplayedFile(file, pending, log.FileBytes);
        tables = new CachedBlocks(view, limitBlocks: 256);
        contents = VhdxContents.Read(view);
        table = new VhdxTable(contents, () => tables);
        this.parent = contents.Parent is { } claim ? parent(claim) : null;
    }

    /// <summary>Opens the disk in a file.</summary>
    /// <param name="file">The file.</param>
    /// <param name="parent">Finds the disk that it differs from.</param>
    /// <exception cref="Errors.UnreadableException">It is damaged so that its bytes can't be placed.</exception>
    public static VhdxDisk Open(IBackingFile file, Func<ParentClaim, IReadableBlocks> parent)
    {
        var headers = VhdxHeaders.Read(file);
        return new VhdxDisk(file, headers, VhdxLog.Pending(file, headers.Current), parent);
    }

    /// <summary>What it calls the state of its data; a child that differs from it remembers it.</summary>
    public Guid DataWriteId => headers.Current.DataWriteId;

    /// <inheritdoc/>
    public long LengthBytes => contents.DiskBytes;

    /// <inheritdoc/>
    public int SectorBytes => contents.SectorBytes;

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        PieceReading.Read(this, offsetBytes, buffer, PieceAt, view.Read, parent);
    }

    /// <inheritdoc/>
    public void ReadBack(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        PieceReading.Read(this, offsetBytes, buffer, PieceAt, isWriting ? file.ReadBack : view.Read, parent);
    }

    /// <inheritdoc/>
    public bool HasParent => parent is not null;

    /// <inheritdoc/>
    public long NextData(long offsetBytes)
    {
        if (parent is not null) return offsetBytes;
        while (offsetBytes < LengthBytes && table.Block(offsetBytes / contents.BlockBytes).State != VhdxTable.Whole)
            offsetBytes = ((offsetBytes / contents.BlockBytes) + 1) * contents.BlockBytes;
        return Math.Min(offsetBytes, LengthBytes);
    }

    /// <inheritdoc/>
    public void Write(long offsetBytes, ReadOnlySpan<byte> data)
    {
        this.CheckRange(offsetBytes, data.Length);
        BeginWriting();
        var entries = new Dictionary<long, ulong>();
        while (data.Length > 0)
        {
            var within = (int)(offsetBytes % contents.BlockBytes);
            var count = Math.Min(data.Length, contents.BlockBytes - within);
            WriteInBlock(offsetBytes / contents.BlockBytes, within, data[..count], entries);
            data = data[count..];
            offsetBytes += count;
        }

        if (entries.Count > 0) ChangeTables([.. entries.Select(entry => (entry.Key, BitConverter.GetBytes(entry.Value)))]);
    }

    /// <inheritdoc/>
    public void Flush() => file.Flush();

    private DiskPiece PieceAt(long offsetBytes, int most)
    {
        var number = offsetBytes / contents.BlockBytes;
        var within = (int)(offsetBytes % contents.BlockBytes);
        var count = Math.Min(most, contents.BlockBytes - within);
        var (state, at) = table.Block(number);
        return state switch
        {
            VhdxTable.Whole => new DiskPiece(PieceSource.File, at + within, count),
            VhdxTable.Partly when parent is not null => PartlyAt(number, at, within, count),
            VhdxTable.Absent when parent is not null => new DiskPiece(PieceSource.Parent, 0, count),
            _ => new DiskPiece(PieceSource.Zeros, 0, count)
        };
    }

    private DiskPiece PartlyAt(long number, long at, int within, int count)
    {
        if (table.Bitmap(number) is not { } bitmapAt) throw VirtualDiskErrors.Damaged("VHDX", "a sector bitmap is missing");
        var firstOfBlock = number % contents.ChunkBlocks * (contents.BlockBytes / SectorBytes);
        var first = within / SectorBytes;
        var most = ((within + count - 1) / SectorBytes) - first + 1;
        var bits = tables.ReadBytes(bitmapAt + (firstOfBlock / 8), contents.BlockBytes / SectorBytes / 8);
        var sectors = SectorBitmap.RunLength(first, most, IsSet);
        var length = Math.Min(count, ((first + sectors) * SectorBytes) - within);
        return IsSet(first)
            ? new DiskPiece(PieceSource.File, at + within, length)
            : new DiskPiece(PieceSource.Parent, 0, length);

        bool IsSet(int sector) => (bits[sector / 8] & SectorBitmap.LowestFirst(sector)) != 0;
    }

    /// <summary>Writes to a block that is there whole, or puts a whole one behind the end of the file.</summary>
    /// <param name="number">The number of the block.</param>
    /// <param name="within">Where in it, in bytes.</param>
    /// <param name="data">What is written.</param>
    /// <param name="entries">Gets the entries that the table needs then, by their places in the file.</param>
    private void WriteInBlock(long number, int within, ReadOnlySpan<byte> data, Dictionary<long, ulong> entries)
    {
        var (state, at) = table.Block(number);
        if (state == VhdxTable.Whole)
        {
            file.Write(at + within, data);
            return;
        }

        if (parent is null && !data.ContainsAnyExcept((byte)0)) return;
        var fresh = (file.LengthBytes + MiB - 1) / MiB * MiB;
        file.Grow(fresh + contents.BlockBytes);
        if (parent is not null) CopyBlock(number, fresh);
        file.Write(fresh + within, data);
        entries[table.EntryAt(number)] = VhdxTable.EntryOf(VhdxTable.Whole, fresh);
    }

    /// <summary>A block that the parent has a part in is copied whole, so that no bitmap is needed for it any more.</summary>
    private void CopyBlock(long number, long to)
    {
        var start = number * contents.BlockBytes;
        var length = (int)Math.Min(contents.BlockBytes, LengthBytes - start);
        var buffer = new byte[MiB];
        for (var done = 0; done < length; done += buffer.Length)
        {
            var part = buffer.AsSpan(0, Math.Min(buffer.Length, length - done));
            Read(start + done, part);
            if (part.ContainsAnyExcept((byte)0)) file.Write(to + done, part);
        }
    }

    /// <summary>
    /// What stands before the first write: the log is replayed, and others can see that the file is not as it was.
    /// </summary>
    private void BeginWriting()
    {
        if (isWriting) return;
        RefuseUnwritable();
        if (pending.Count > 0) Replay();
        tables = new CachedBlocks(file, limitBlocks: 256);
        view = file;
        headers.Become(headers.Current with
        {
            FileWriteId = Guid.NewGuid(),
            DataWriteId = Guid.NewGuid(),
            LogId = Guid.Empty
        });
        isWriting = true;
    }

    /// <inheritdoc/>
    public void RefuseUnwritable()
    {
        var header = headers.Current;
        if (header.LogBytes < MiB
            || header.LogAt % MiB != 0
            || header.LogAt < MiB
            || header.LogAt > (ulong)file.LengthBytes - MiB)
            throw VirtualDiskErrors.Damaged("VHDX", "its log is not where the header says");
        CheckTable();
    }

    private void Replay()
    {
        const int pieceBytes = MiB;
        if (view.LengthBytes > file.LengthBytes) file.Grow(view.LengthBytes);
        var zeros = new byte[pieceBytes];
        foreach (var write in pending)
        {
            if (write.Bytes is { } bytes)
            {
                file.Write(write.Range.Start, bytes);
                continue;
            }

            for (var at = write.Range.Start; at < write.Range.End; at += pieceBytes)
                file.Write(at, zeros.AsSpan(0, (int)Math.Min(pieceBytes, write.Range.End - at)));
        }

        file.Flush();
    }

    /// <summary>
    /// Changes the tables: into the log, flushed with the blocks themselves, which then counts, into their places, and the log
    /// counts no more. A cut at any moment leaves all of the change or nothing of it.
    /// </summary>
    private void ChangeTables(IReadOnlyList<(long At, byte[] Bytes)> changes)
    {
        var pages = new SortedDictionary<long, byte[]>();
        foreach (var (at, bytes) in changes)
        {
            var page = at / VhdxTable.PageBytes * VhdxTable.PageBytes;
            if (!pages.TryGetValue(page, out var content)) pages.Add(page, content = file.ReadBytes(page, VhdxTable.PageBytes));
            bytes.CopyTo(content, (int)(at - page));
        }

        var most = Math.Max(1, (int)(headers.Current.LogBytes / VhdxTable.PageBytes / 2));
        foreach (var part in pages.Select(page => (page.Key, page.Value)).Chunk(most)) ChangePages(part);
    }

    private void ChangePages(IReadOnlyList<(long At, byte[] Bytes)> pages)
    {
        var id = Guid.NewGuid();
        file.Write((long)headers.Current.LogAt, VhdxLog.EntryOf(pages, id, file.LengthBytes));
        file.Flush();
        headers.Become(headers.Current with { LogId = id });
        foreach (var (at, bytes) in pages)
        {
            file.Write(at, bytes);
            tables.Forget(at, bytes.Length);
        }

        file.Flush();
        headers.Become(headers.Current with { LogId = Guid.Empty });
    }

    /// <inheritdoc/>
    public void CheckTable()
    {
        const int chunkEntries = 8 * 1024;
        var (blocks, bitmaps) = (new List<long>(), new List<ByteRange> { contents.Table, new(0, MiB) });
        bitmaps.Add(new ByteRange((long)headers.Current.LogAt, headers.Current.LogBytes));
        var chunk = new ulong[chunkEntries];
        var total = contents.UsedEntries;
        for (var first = 0L; first < total; first += chunk.Length)
        {
            var entries = chunk.AsSpan(0, (int)Math.Min(chunk.Length, total - first));
            view.Read(contents.Table.Start + (first * VhdxTable.EntryBytes), MemoryMarshal.AsBytes(entries));
            for (var number = 0; number < entries.Length; number++)
            {
                var (state, at) = VhdxTable.Parted(entries[number]);
                if (state is not (VhdxTable.Whole or VhdxTable.Partly)) continue;
                var isBitmap = (first + number) % (contents.ChunkBlocks + 1) == contents.ChunkBlocks;
                if (isBitmap) bitmaps.Add(new ByteRange(at, VhdxTable.BitmapBytes));
                else blocks.Add(at);
            }

            VirtualDiskErrors.CheckCount("VHDX", blocks, contents.BlockBytes, view.LengthBytes);
        }

        VirtualDiskErrors.CheckPlaces("VHDX", blocks, contents.BlockBytes, bitmaps, view.LengthBytes);
    }
}

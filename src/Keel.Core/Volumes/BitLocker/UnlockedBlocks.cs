using System.Buffers;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>
/// An encrypted volume as its file system sees it. What is written is encrypted and goes to the blocks below, so a plan, a way
/// back and a copy hold what the disk holds; the metadata are never written.
/// </summary>
/// <param name="raw">The volume as it stands on the disk.</param>
/// <param name="cipher">Decrypts and encrypts its sectors.</param>
/// <param name="places">What lies where.</param>
/// <param name="whyNotWritten">Why it may not be written; null where it may.</param>
internal sealed class UnlockedBlocks(
    IWritableBlocks raw,
    SectorCipher cipher,
    EncryptedPlaces places,
    RefusedException? whyNotWritten) : IWritableBlocks
{
    private const int PieceBytes = 256 * 1024;

    /// <summary>Why it may not be written; null where it may.</summary>
    public RefusedException? WhyNotWritten => whyNotWritten;

    /// <inheritdoc/>
    public long LengthBytes => raw.LengthBytes;

    /// <inheritdoc/>
    public int SectorBytes => raw.SectorBytes;

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        while (buffer.Length > 0)
        {
            var part = PartAt(offsetBytes);
            var count = (int)Math.Min(buffer.Length, part.End - offsetBytes);
            if (part.IsHidden) buffer[..count].Clear();
            else if (part.IsPlain) raw.Read(offsetBytes, buffer[..count]);
            else count = ReadSectors(offsetBytes, part.Shift, buffer[..count]);
            buffer = buffer[count..];
            offsetBytes += count;
        }
    }

    /// <inheritdoc/>
    /// <exception cref="RefusedException">The volume may not be written, or that place of it.</exception>
    public void Write(long offsetBytes, ReadOnlySpan<byte> data)
    {
        this.CheckRange(offsetBytes, data.Length);
        if (whyNotWritten is not null) throw whyNotWritten;
        CheckHidden(offsetBytes, data);
        while (data.Length > 0)
        {
            var part = PartAt(offsetBytes);
            var count = (int)Math.Min(data.Length, part.End - offsetBytes);
            if (part.IsPlain) raw.Write(offsetBytes, data[..count]);
            else if (!part.IsHidden) count = WriteSectors(offsetBytes, part.Shift, data[..count]);
            data = data[count..];
            offsetBytes += count;
        }
    }

    /// <inheritdoc/>
    public void Flush() => raw.Flush();

    /// <summary>How a place is read: to where that holds, how far it lies from itself, and whether it is there at all.</summary>
    private (long End, long Shift, bool IsHidden, bool IsPlain) PartAt(long offsetBytes)
    {
        if (offsetBytes < places.Head.End) return (places.Head.End, places.MovedAt, IsHidden: false, IsPlain: false);
        var end = LengthBytes;
        foreach (var range in places.Hidden)
        {
            if (range.Contains(offsetBytes)) return (range.End, 0, IsHidden: true, IsPlain: false);
            if (range.Start > offsetBytes) end = Math.Min(end, range.Start);
        }

        return offsetBytes >= places.EncryptedBytes
            ? (end, 0, IsHidden: false, IsPlain: true)
            : (Math.Min(end, places.EncryptedBytes), 0, IsHidden: false, IsPlain: false);
    }

    /// <summary>Decrypts where the buffer takes whole sectors, and a sector aside where it takes a part of one.</summary>
    private int ReadSectors(long offsetBytes, long shift, Span<byte> buffer)
    {
        var sector = cipher.SectorBytes;
        var within = (int)(offsetBytes % sector);
        if (within == 0 && buffer.Length >= sector)
        {
            var whole = buffer[..(Math.Min(PieceBytes, buffer.Length) / sector * sector)];
            raw.Read(offsetBytes + shift, whole);
            cipher.Decrypt(whole, offsetBytes + shift);
            return whole.Length;
        }

        Span<byte> one = stackalloc byte[sector];
        var start = offsetBytes - within + shift;
        raw.Read(start, one);
        cipher.Decrypt(one, start);
        var count = Math.Min(buffer.Length, sector - within);
        one.Slice(within, count).CopyTo(buffer);
        return count;
    }

    private int WriteSectors(long offsetBytes, long shift, ReadOnlySpan<byte> data)
    {
        var sector = cipher.SectorBytes;
        var within = (int)(offsetBytes % sector);
        var isWhole = within == 0 && data.Length >= sector;
        var count = isWhole ? Math.Min(PieceBytes, data.Length) / sector * sector : Math.Min(data.Length, sector - within);
        var length = isWhole ? count : sector;
        var start = offsetBytes - within + shift;
        var rented = ArrayPool<byte>.Shared.Rent(length);
        try
        {
            var sectors = rented.AsSpan(0, length);
            if (!isWhole)
            {
                raw.Read(start, sectors);
                cipher.Decrypt(sectors, start);
            }

            data[..count].CopyTo(sectors[within..]);
            cipher.Encrypt(sectors, start);
            raw.Write(start, sectors);
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(rented, clearArray: true);
        }

        return count;
    }

    /// <summary>Nothing but zeros may be put where the metadata lie: they read as zeros, and that is where they stay.</summary>
    private void CheckHidden(long offsetBytes, ReadOnlySpan<byte> data)
    {
        var written = new ByteRange(offsetBytes, data.Length);
        foreach (var range in places.Hidden.Where(range => range.Overlaps(written)))
        {
            var from = Math.Max(range.Start, written.Start);
            var to = Math.Min(range.End, written.End);
            if (!data[(int)(from - offsetBytes)..(int)(to - offsetBytes)].ContainsAnyExcept((byte)0)) continue;
            throw new RefusedException(
                "The metadata of an encrypted volume would be written over, and nothing was.",
                $"They lie at byte {range.Start} of the volume, and its file system holds that place for free.",
                "Have the file system checked by Windows, unlocked there, before anything is written on it.");
        }
    }
}

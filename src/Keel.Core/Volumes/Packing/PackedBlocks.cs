using System.Buffers;
using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Packing;

/// <summary>
/// The contents of a file that Windows' overlay packed, as on small disks: its stream begins with the places of all pieces but
/// the first, counted from the end of that table, and the pieces follow. A piece of full length stands there as it is.
/// </summary>
/// <param name="stream">The stream WofCompressedData.</param>
/// <param name="lengthBytes">The length of what is in it, unpacked.</param>
/// <param name="method">How it is packed.</param>
/// <param name="unpacker">Unpacks pieces of this method.</param>
/// <param name="path">What it is called in errors.</param>
internal sealed class PackedBlocks(
    IReadableBlocks stream,
    long lengthBytes,
    PackingMethod method,
    Unpacker unpacker,
    string path) : IReadableBlocks
{
    private readonly byte[] piece = new byte[method.PieceBytes];
    private long pieceNumber = -1;

    /// <inheritdoc/>
    public long LengthBytes => lengthBytes;

    /// <inheritdoc/>
    public int SectorBytes => stream.SectorBytes;

    private long Pieces => (lengthBytes + method.PieceBytes - 1) / method.PieceBytes;

    /// <summary>A place has 8 bytes in files from 4 GiB on.</summary>
    private int PlaceBytes => lengthBytes > uint.MaxValue ? sizeof(ulong) : sizeof(uint);

    private long TableBytes => (Pieces - 1) * PlaceBytes;

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        while (buffer.Length > 0)
        {
            var number = offsetBytes / method.PieceBytes;
            var within = (int)(offsetBytes % method.PieceBytes);
            var length = LengthOf(number);
            var count = Math.Min(buffer.Length, length - within);
            if (within == 0 && count == length)
            {
                Unpack(number, buffer[..count]);
            }
            else
            {
                Keep(number, length);
                piece.AsSpan(within, count).CopyTo(buffer);
            }

            buffer = buffer[count..];
            offsetBytes += count;
        }
    }

    private int LengthOf(long number) => (int)Math.Min(method.PieceBytes, lengthBytes - (number * method.PieceBytes));

    /// <summary>What is read in parts is unpacked once.</summary>
    private void Keep(long number, int length)
    {
        if (pieceNumber == number) return;
        pieceNumber = -1;
        Unpack(number, piece.AsSpan(0, length));
        pieceNumber = number;
    }

    private void Unpack(long number, Span<byte> target)
    {
        var start = number == 0 ? 0 : Place(number);
        var end = number == Pieces - 1 ? stream.LengthBytes - TableBytes : Place(number + 1);
        if (start < 0 || end <= start || end - start > target.Length || end > stream.LengthBytes - TableBytes)
            throw Damaged($"piece {number + 1} of {Pieces} is not where its table says");
        if (end - start == target.Length)
        {
            stream.Read(TableBytes + start, target);
            return;
        }

        var packed = ArrayPool<byte>.Shared.Rent((int)(end - start));
        try
        {
            var content = packed.AsSpan(0, (int)(end - start));
            stream.Read(TableBytes + start, content);
            if (!unpacker.TryUnpack(content, target)) throw Damaged($"piece {number + 1} of {Pieces} can't be unpacked");
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(packed);
        }
    }

    private long Place(long number)
    {
        Span<byte> place = stackalloc byte[PlaceBytes];
        var at = (number - 1) * PlaceBytes;
        if (at + PlaceBytes > stream.LengthBytes) throw Damaged("its table of pieces is cut short");
        stream.Read(at, place);
        return place.Length == sizeof(uint)
            ? BinaryPrimitives.ReadUInt32LittleEndian(place)
            : BinaryPrimitives.ReadInt64LittleEndian(place);
    }

    private UnreadableException Damaged(string how) => new(
        $"{path} can't be read.",
        $"It is packed ({method}), and {how}.",
        "Put a copy of the same version in its place: 'keel files check --mend' looks for one that is as Microsoft signed it.")
    { IsContentDamaged = true };
}

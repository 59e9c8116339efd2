using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Disks.Virtual;

/// <summary>Reads a virtual disk piece by piece, each from where it lies.</summary>
internal static class PieceReading
{
    /// <summary>Fills the whole buffer.</summary>
    /// <param name="disk">The virtual disk, whose sectors are told where they can't be read.</param>
    /// <param name="offsetBytes">Where to begin.</param>
    /// <param name="buffer">Where the bytes go.</param>
    /// <param name="pieceAt">The piece that begins at a place of the disk and has at most a length, both in bytes.</param>
    /// <param name="file">Reads the file of the disk.</param>
    /// <param name="parent">The disk that it differs from; null for none.</param>
    public static void Read(
        IReadableBlocks disk,
        long offsetBytes,
        Span<byte> buffer,
        Func<long, int, DiskPiece> pieceAt,
        ReadAction file,
        IReadableBlocks? parent)
    {
        while (buffer.Length > 0)
        {
            var piece = pieceAt(offsetBytes, buffer.Length);
            var part = buffer[..piece.Length];
            switch (piece.Source)
            {
                case PieceSource.File:
                    ReadFile(disk, offsetBytes, part, piece.At, file);
                    break;
                case PieceSource.Parent:
                    ReadParent(parent!, offsetBytes, part);
                    break;
                default:
                    part.Clear();
                    break;
            }

            buffer = buffer[piece.Length..];
            offsetBytes += piece.Length;
        }
    }

    /// <summary>A bad sector of the disk under the file is told as one of the virtual disk.</summary>
    private static void ReadFile(IReadableBlocks disk, long offsetBytes, Span<byte> part, long at, ReadAction file)
    {
        try
        {
            file(at, part);
        }
        catch (ReadFailedException e)
        {
            var first = offsetBytes / disk.SectorBytes;
            var last = (offsetBytes + part.Length - 1) / disk.SectorBytes;
            throw new ReadFailedException(e.What, e.Why, e.Todo, [.. Sectors(first, last)], inner: e);
        }
    }

    private static IEnumerable<long> Sectors(long first, long last)
    {
        for (var sector = first; sector <= last; sector++) yield return sector;
    }

    /// <summary>A disk that was made larger than its parent has zeros behind the parent's end.</summary>
    private static void ReadParent(IReadableBlocks parent, long offsetBytes, Span<byte> part)
    {
        var there = (int)Math.Clamp(parent.LengthBytes - offsetBytes, 0, part.Length);
        parent.Read(offsetBytes, part[..there]);
        part[there..].Clear();
    }
}

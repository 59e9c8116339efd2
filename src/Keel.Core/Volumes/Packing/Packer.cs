using System.Buffers.Binary;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Packing;

/// <summary>Packs contents as Windows' overlay does: for practice disks alone, since repairs write files unpacked.</summary>
internal static unsafe class Packer
{
    private const int Xpress = 1, Lzx = 2;                      // enum wimlib_compression_type
    private const uint UsualLevel = 0;

    /// <summary>The stream that holds the contents, packed.</summary>
    /// <exception cref="UnreadableException">The library isn't there, or has no memory.</exception>
    public static byte[] Pack(ReadOnlySpan<byte> contents, PackingMethod method, string what)
    {
        var library = WimLibrary.Load(what);
        nint compressor;
        var error = library.CreateCompressor(method.IsLzx ? Lzx : Xpress, (nuint)method.PieceBytes, UsualLevel, &compressor);
        if (error != WimLibrary.Ok)
            throw new UnreadableException($"{what} can't be packed.", "The library libwim says no.", "Free some memory.");
        try
        {
            var pieces = new List<byte[]>();
            for (var at = 0; at < contents.Length; at += method.PieceBytes)
                pieces.Add(PackPiece(library, compressor, contents.Slice(at, Math.Min(method.PieceBytes, contents.Length - at))));
            return Join(pieces);
        }
        finally
        {
            library.FreeCompressor(compressor);
        }
    }

    /// <summary>What does not get smaller stands as it is.</summary>
    private static byte[] PackPiece(WimLibrary library, nint compressor, ReadOnlySpan<byte> piece)
    {
        var packed = new byte[piece.Length];
        fixed (byte* from = piece)
        {
            fixed (byte* to = packed)
            {
                var count = (int)library.Compress(from, (nuint)piece.Length, to, (nuint)piece.Length - 1, compressor);
                return count == 0 ? piece.ToArray() : packed[..count];
            }
        }
    }

    private static byte[] Join(List<byte[]> pieces)
    {
        var table = new byte[Math.Max(0, pieces.Count - 1) * sizeof(uint)];
        var at = 0;
        for (var number = 1; number < pieces.Count; number++)
        {
            at += pieces[number - 1].Length;
            BinaryPrimitives.WriteUInt32LittleEndian(table.AsSpan((number - 1) * sizeof(uint)), (uint)at);
        }

        return [.. table, .. pieces.SelectMany(piece => piece)];
    }
}

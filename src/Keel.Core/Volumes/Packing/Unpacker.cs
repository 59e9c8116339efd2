using Keel.Core.Errors;

namespace Keel.Core.Volumes.Packing;

/// <summary>Unpacks pieces of one method, through libwim.</summary>
internal sealed unsafe class Unpacker : IDisposable
{
    private const int Xpress = 1, Lzx = 2;                      // enum wimlib_compression_type
    private readonly WimLibrary library;
    private nint handle;

    /// <exception cref="UnreadableException">The library isn't there, or has no memory.</exception>
    public Unpacker(PackingMethod method, string what)
    {
        library = WimLibrary.Load(what);
        nint made;
        if (library.CreateDecompressor(method.IsLzx ? Lzx : Xpress, (nuint)method.PieceBytes, &made) != WimLibrary.Ok)
        {
            throw new UnreadableException(
                $"{what} can't be read.",
                $"The library libwim unpacks no {method}.",
                "Install Debian's (apt install libwim15) and run the same command again.");
        }

        handle = made;
    }

    /// <summary>Unpacks a piece; false where it is damaged.</summary>
    public bool TryUnpack(ReadOnlySpan<byte> packed, Span<byte> piece)
    {
        fixed (byte* from = packed)
        {
            fixed (byte* to = piece)
            {
                return library.Decompress(from, (nuint)packed.Length, to, (nuint)piece.Length, handle) == WimLibrary.Ok;
            }
        }
    }

    public void Dispose()
    {
        if (handle != 0) library.FreeDecompressor(handle);
        handle = 0;
    }
}

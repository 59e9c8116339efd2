namespace Keel.Core.Volumes.Packing;

/// <summary>How Windows' overlay packs a file.</summary>
/// <param name="IsLzx">LZX; else XPRESS with Huffman codes.</param>
/// <param name="PieceBytes">Each piece is packed by itself.</param>
internal readonly record struct PackingMethod(bool IsLzx, int PieceBytes)
{
    private const int KiB = 1024;

    /// <summary>The method by its number (FILE_PROVIDER_COMPRESSION_…); null where there is no such number.</summary>
    public static PackingMethod? ByNumber(uint number) => number switch
    {
        0 => new(IsLzx: false, 4 * KiB),
        1 => new(IsLzx: true, 32 * KiB),
        2 => new(IsLzx: false, 8 * KiB),
        3 => new(IsLzx: false, 16 * KiB),
        _ => null
    };

    /// <inheritdoc/>
    public override string ToString() => $"{(IsLzx ? "LZX" : "XPRESS")} in pieces of {PieceBytes / KiB} KiB";
}

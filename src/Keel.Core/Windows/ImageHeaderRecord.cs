using System.Runtime.InteropServices;

namespace Keel.Core.Windows;

/// <summary>The fields of the header of a file with images of file trees (Windows Imaging File Format).</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct ImageHeaderRecord
{
    /// <summary>The size of the whole header in bytes; its end is not read here.</summary>
    public const int Bytes = 208;

    /// <summary>"MSWIM" and three zeros.</summary>
    public const ulong UsualSignature = 0x0000004D4957534D;

    /// <summary>A length takes 7 bytes; the eighth holds flags.</summary>
    public const ulong LengthMask = 0x00FFFFFFFFFFFFFF;

    public ulong Signature;
    public uint HeaderBytes;
    public uint Version;
    public uint Flags;
    public uint PieceBytes;
    public Guid Id;
    public ushort Part;
    public ushort Parts;
    public uint Images;
    public ulong LookupTableLength;
    public ulong LookupTableOffset;
    public ulong LookupTableWholeLength;
    public ulong DescriptionLength;
    public ulong DescriptionOffset;
    public ulong DescriptionWholeLength;
    private readonly ulong startDataLength;
    private readonly ulong startDataOffset;
    private readonly ulong startDataWholeLength;
    public uint StartImage;
}

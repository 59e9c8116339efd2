using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>How every attribute begins: 16 bytes ("Attribute header" of the documentation of Linux-NTFS).</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NtfsAttributeRecord
{
    /// <summary>The type that ends the list.</summary>
    public const uint EndType = uint.MaxValue;

    public uint Type;
    public uint Length;
    public byte IsNonResident;
    public byte NameLength;             // letters
    public ushort NameAt;
    public ushort Flags;                // compressed, encrypted, sparse
    public ushort Number;
}

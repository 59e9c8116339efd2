using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>
/// The last 512 bytes of a VHD, and the first ones too where it grows (Virtual Hard Disk Image Format Specification 1.0, "Hard
/// Disk Footer Format").
/// </summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct VhdFooterRecord
{
    /// <summary>Its length in bytes.</summary>
    public const int Bytes = 512;

    /// <summary>A disk of one length, and one that grows, and one that holds only what differs from another.</summary>
    public const uint Fixed = 2, Dynamic = 3, Differencing = 4;

    public Bytes8 Mark;                 // "conectix"
    public BigUInt32 Features;
    public BigUInt32 Version;           // 1.0 is 0x00010000
    public BigUInt64 HeaderAt;          // bytes of the file; all ones for a fixed disk
    public BigUInt32 Time;              // seconds from 2000
    public BigUInt32 CreatorProgram;
    public BigUInt32 CreatorVersion;
    public BigUInt32 CreatorSystem;
    public BigUInt64 OriginalBytes;
    public BigUInt64 DiskBytes;
    public BigUInt32 Geometry;          // cylinders 16 bits, heads 8, sectors of a track 8
    public BigUInt32 DiskType;
    public BigUInt32 Checksum;          // all other bytes added up, ones' complement
    public Guid Id;
    public byte SavedState;             // 1 where a machine was saved with its memory
    private readonly Bytes427 reserved;

    public static ReadOnlySpan<byte> MarkBytes => "conectix"u8;

    [InlineArray(427)]
    private struct Bytes427
    {
        private byte first;
    }
}

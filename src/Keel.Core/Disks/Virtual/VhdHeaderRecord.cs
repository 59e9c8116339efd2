using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>
/// What a VHD that grows says of its blocks: 1,024 bytes (Virtual Hard Disk Image Format Specification 1.0, "Dynamic Disk Header
/// Format").
/// </summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct VhdHeaderRecord
{
    public const int Bytes = 1024, LocatorCount = 8, NameBytes = 512;

    public Bytes8 Mark;                 // "cxsparse"
    public BigUInt64 NextAt;            // unused
    public BigUInt64 TableAt;           // bytes of the file
    public BigUInt32 Version;           // 1.0 is 0x00010000
    public BigUInt32 TableEntries;
    public BigUInt32 BlockBytes;        // without the bitmap before each block
    public BigUInt32 Checksum;          // all other bytes added up, ones' complement
    public Guid ParentId;
    public BigUInt32 ParentTime;
    public BigUInt32 Reserved;
    public Bytes512 ParentName;         // UTF-16, the larger byte first
    public Locators Parents;
    private readonly Bytes256 unused;

    public static ReadOnlySpan<byte> MarkBytes => "cxsparse"u8;

    [InlineArray(NameBytes)]
    public struct Bytes512
    {
        private byte first;
    }

    [InlineArray(LocatorCount)]
    public struct Locators
    {
        private VhdLocatorRecord first;
    }

    [InlineArray(256)]
    private struct Bytes256
    {
        private byte first;
    }
}

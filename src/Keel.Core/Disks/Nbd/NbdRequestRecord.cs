using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Nbd;

/// <summary>A request: 28 bytes (NBD protocol, "Request message").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NbdRequestRecord
{
    public const uint MarkValue = 0x25609513;

    public BigUInt32 Mark;
    public BigUInt32 FlagsAndCommand;   // 16 bits each
    public BigUInt64 Cookie;
    public BigUInt64 At;                // bytes of the disk
    public BigUInt32 Length;
}

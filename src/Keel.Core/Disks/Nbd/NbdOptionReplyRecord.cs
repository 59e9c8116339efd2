using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Nbd;

/// <summary>The head of what the server says to a wish: 20 bytes (NBD protocol, "Option reply").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NbdOptionReplyRecord
{
    public const ulong MarkValue = 0x0003E889045565A9;

    public BigUInt64 Mark;
    public BigUInt32 Option;
    public BigUInt32 Kind;
    public BigUInt32 Length;
}

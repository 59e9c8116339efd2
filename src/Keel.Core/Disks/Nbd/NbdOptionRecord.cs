using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Nbd;

/// <summary>
/// The head of a wish of the client before the disk is served: 16 bytes (NBD protocol, "Newstyle negotiation").
/// </summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NbdOptionRecord
{
    public const ulong MarkValue = 0x49484156454F5054;

    public BigUInt64 Mark;              // "IHAVEOPT"
    public BigUInt32 Option;
    public BigUInt32 Length;
}

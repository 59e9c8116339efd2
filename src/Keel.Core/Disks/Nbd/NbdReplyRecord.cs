using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Nbd;

/// <summary>The head of an answer: 16 bytes (NBD protocol, "Simple reply message").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NbdReplyRecord
{
    public const uint MarkValue = 0x67446698;

    public BigUInt32 Mark;
    public BigUInt32 Error;             // a number of errno, 0 for none
    public BigUInt64 Cookie;
}

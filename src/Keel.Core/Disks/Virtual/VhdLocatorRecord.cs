using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>
/// Where a path to the parent of a VHD stands: 24 bytes (Virtual Hard Disk Image Format Specification 1.0, "Parent Locator").
/// </summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct VhdLocatorRecord
{
    /// <summary>A path of Windows in UTF-16, relative ("W2ru") or whole ("W2ku").</summary>
    public const uint Relative = 0x57327275, Whole = 0x57326B75;

    public BigUInt32 Platform;
    public BigUInt32 SpaceBytes;
    public BigUInt32 LengthBytes;
    public BigUInt32 Reserved;
    public BigUInt64 At;                // bytes of the file
}

using System.Runtime.InteropServices;

namespace Keel.Core.Disks.Virtual;

/// <summary>The head of what is said of a parent (MS-VHDX 2.6.2.6.1, "Parent Locator Header").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct VhdxLocatorRecord
{
    public const int Bytes = 20;

    public Guid Kind;
    public ushort Reserved;
    public ushort Count;
}

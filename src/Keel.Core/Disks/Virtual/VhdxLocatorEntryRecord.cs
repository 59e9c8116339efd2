using System.Runtime.InteropServices;

namespace Keel.Core.Disks.Virtual;

/// <summary>A name and a value of what is said of a parent (MS-VHDX 2.6.2.6.2, "Parent Locator Entry").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct VhdxLocatorEntryRecord
{
    public const int Bytes = 12;

    public uint NameAt;                 // bytes from the head
    public uint ValueAt;
    public ushort NameBytes;
    public ushort ValueBytes;
}

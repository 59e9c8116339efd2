using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>An attribute whose contents stand in the file record: 24 bytes, and the contents at their place.</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NtfsResidentRecord
{
    public NtfsAttributeRecord Head;
    public uint ContentBytes;
    public ushort ContentAt;
    public byte Indexed;
    private readonly byte padding;
}

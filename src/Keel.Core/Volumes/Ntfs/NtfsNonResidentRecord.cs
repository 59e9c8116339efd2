using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>An attribute whose contents stand in clusters: 64 bytes, and the list of runs at its place.</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NtfsNonResidentRecord
{
    public NtfsAttributeRecord Head;
    public ulong FirstCluster;          // of the contents; above 0 where it continues another
    public ulong LastCluster;
    public ushort RunsAt;
    public ushort CompressionUnit;
    private readonly uint padding;
    public long AllocatedBytes;
    public long SizeBytes;
    public long InitializedBytes;
}

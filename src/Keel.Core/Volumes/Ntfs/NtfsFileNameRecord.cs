using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>A name of a file, in its record and in its folder's index: 66 bytes, and the letters ("$FILE_NAME").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NtfsFileNameRecord
{
    public ulong Folder;
    public long Created;
    public long Altered;
    public long RecordAltered;
    public long Read;
    public long AllocatedBytes;
    public long SizeBytes;
    public uint Flags;
    public uint Reparse;
    public byte NameLength;             // letters
    public byte NameSpace;
}

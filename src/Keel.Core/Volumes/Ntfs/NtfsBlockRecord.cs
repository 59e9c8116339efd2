using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>
/// How file records and index blocks begin: 8 bytes. The last two bytes of each 512 stand in a list of their own, so that a torn
/// write shows ("Fixup" of the documentation of Linux-NTFS).
/// </summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NtfsBlockRecord
{
    public uint Mark;                   // "FILE" or "INDX"
    public ushort UpdateWordsAt;
    public ushort UpdateWordCount;      // one more than there are strides
}

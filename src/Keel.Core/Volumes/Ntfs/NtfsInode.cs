namespace Keel.Core.Volumes.Ntfs;

/// <summary>An open inode of libntfs-3g; closes itself.</summary>
internal readonly unsafe struct NtfsInode(NtfsLibrary library, nint handle) : IDisposable
{
    private const int RecordAt = 8;                             // struct _ntfs_inode: mft_no, mrec, vol, state, flags
    private const int RecordFlagsAt = 22;                       // MFT_RECORD.flags
    private const ushort IsFolderFlag = 2;

    public nint Handle => handle;

    public bool IsFolder => (*(ushort*)(*(nint*)(handle + RecordAt) + RecordFlagsAt) & IsFolderFlag) != 0;

    public FileMarks Marks
    {
        get
        {
            uint marks = 0;
            return library.GetAttrib(handle, (byte*)&marks, sizeof(uint)) == sizeof(uint) ? (FileMarks)marks : FileMarks.None;
        }
    }

    public void Dispose()
    {
        if (handle != 0) _ = library.InodeClose(handle);
    }
}

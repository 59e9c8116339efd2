namespace Keel.Core.Volumes.Ntfs;

/// <summary>An open inode of libntfs-3g; closes itself.</summary>
internal readonly unsafe struct NtfsInode(NtfsLibrary library, nint handle) : IDisposable
{
    private const int RecordAt = 8;                             // struct _ntfs_inode: mft_no, mrec, vol, state, flags
    private const int RecordFlagsAt = 22;                       // MFT_RECORD.flags
    private const ushort IsFolderFlag = 2;

    public nint Handle => handle;

    public bool IsFolder => (*(ushort*)(*(nint*)(handle + RecordAt) + RecordFlagsAt) & IsFolderFlag) != 0;

    /// <summary>
    /// Whether it has a second name that is none of DOS: what is written through one of them is in the other too.
    /// </summary>
    public bool IsLinked
    {
        get
        {
            const int linksAt = 18, firstAt = 20, usedAt = 24, largest = 4096, lengthAt = 4, contentAt = 20, kindAt = 0x41;
            const uint nameType = 0x30, listType = 0x20;
            const byte dosOnly = 2;
            var record = new ReadOnlySpan<byte>((void*)*(nint*)(handle + RecordAt), usedAt + sizeof(uint));
            if (BitConverter.ToUInt16(record[linksAt..]) < 2) return false;
            var used = Math.Min(largest, BitConverter.ToInt32(record[usedAt..]));
            record = new ReadOnlySpan<byte>((void*)*(nint*)(handle + RecordAt), Math.Max(used, record.Length));
            var names = 0;
            for (int at = BitConverter.ToUInt16(record[firstAt..]); at + contentAt + sizeof(ushort) <= used;)
            {
                var type = BitConverter.ToUInt32(record[at..]);
                var length = BitConverter.ToInt32(record[(at + lengthAt)..]);
                if (type == listType) return true;      // some of its names are elsewhere: rather a new file too much
                if (type > nameType || length <= contentAt || at + length > used) break;
                if (type == nameType && at + BitConverter.ToUInt16(record[(at + contentAt)..]) + kindAt is var kind && kind < used
                    && record[kind] != dosOnly)
                {
                    names++;
                }

                at += length;
            }

            return names > 1;
        }
    }

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

using System.Numerics;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Volumes.Packing;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>An NTFS volume, read and written through libntfs-3g.</summary>
public sealed unsafe class NtfsVolume : IVolume
{
    private const uint MountReadOnly = 0x1, MountForensic = 0x04000000, MountEvenHibernated = 0x20000000;
    private const int NameAt = 8, StateAt = 16;                 // struct _ntfs_volume: dev, vol_name, state
    private const long CaseSensitiveBit = 1 << 1;
    private const ulong VolumeInode = 3;
    private const ushort DirtyFlag = 1;
    private const int NamesLimit = 200_000;
    private const uint RegularFile = 0x8000, Folder = 0x4000;
    private const int NotPermitted = 1, NoSuchFile = 2, NotFolder = 20, NameTooLong = 36, NotSupported = 95;
    private readonly NtfsLibrary library;
    private readonly NtfsDevice device;
    private readonly List<NtfsFile> open = [];
    private readonly int clusterBytes;
    private readonly NtfsSecurity security;
    private readonly Dictionary<PackingMethod, Unpacker> unpackers = [];
    private nint volume;

    private NtfsVolume(NtfsLibrary library, NtfsDevice device, nint volume, int clusterBytes)
    {
        this.clusterBytes = clusterBytes;
        this.library = library;
        this.device = device;
        this.volume = volume;
        security = new NtfsSecurity(library, this, volume);
        _ = library.SetIgnoreCase(volume);
        Label = Marshal.PtrToStringUTF8(*(nint*)(volume + NameAt)) ?? "";
    }

    /// <inheritdoc/>
    public FileSystemKind Kind => FileSystemKind.Ntfs;

    /// <inheritdoc/>
    public string Label { get; }

    /// <inheritdoc/>
    public long FreeBytes
    {
        get
        {
            const ulong bitmapInode = 6;
            const int pieceBytes = 1024 * 1024;
            using var bitmap = new NtfsFile(
                library,
                new NtfsInode(library, library.InodeOpen(volume, bitmapInode)),
                "$Bitmap",
                device: device);
            var free = 0L;
            for (long at = 0; at < bitmap.LengthBytes; at += pieceBytes)
            {
                free += bitmap
                    .ReadBytes(at, (int)Math.Min(pieceBytes, bitmap.LengthBytes - at))
                    .Sum(bits => 8 - BitOperations.PopCount(bits));
            }

            return free * clusterBytes;
        }
    }

    /// <summary>Whether Windows left the volume unclean: it wants a check before anything is written.</summary>
    public bool IsDirty
    {
        get
        {
            const int flagsAt = 10, informationBytes = 12;
            using var information = new NtfsFile(
                library,
                new NtfsInode(library, library.InodeOpen(volume, VolumeInode)),
                "$Volume",
                NtfsFile.VolumeInformationType,
                device);
            return information.LengthBytes >= informationBytes
                && (BitConverter.ToUInt16(information.ReadBytes(0, informationBytes).AsSpan(flagsAt)) & DirtyFlag) != 0;
        }
    }

    /// <summary>Opens a volume; for looking unless it is said otherwise.</summary>
    /// <exception cref="UnreadableException">It can't be read.</exception>
    /// <exception cref="RefusedException">For writing: it is hibernated, or its journal has work in it.</exception>
    public static NtfsVolume Open(IWritableBlocks partition, string name, VolumeUse use = VolumeUse.Looking)
    {
        var library = NtfsLibrary.Load();
        var device = new NtfsDevice(partition);
        nint handle;
        fixed (byte* text = Encoding.UTF8.GetBytes(name + "\0"))
        {
            handle = library.DeviceAlloc(text, 0, device.Operations, device.Private);
        }

        var mounted = handle == 0 ? 0 : library.DeviceMount(handle, use switch
        {
            VolumeUse.Looking => MountReadOnly | MountForensic,
            VolumeUse.GivingUpSession => MountEvenHibernated,
            _ => 0
        });
        if (mounted == 0)
        {
            var error = Marshal.GetLastSystemError();
            if (handle != 0) _ = library.DeviceFree(handle);
            device.Dispose();
            throw NotMounted(name, error, device.Fault);
        }

        var clusterBytes = NtfsBootSector.TryRead(partition.ReadBytes(0, NtfsBootSector.Size))?.ClusterBytes ?? 0;
        return new NtfsVolume(library, device, mounted, clusterBytes);
    }

    /// <inheritdoc/>
    public VolumeFile? Find(string path)
    {
        using var inode = TryInode(path);
        if (inode.Handle == 0) return null;
        return Describe(inode, VolumeExtensions.NameOf(path));
    }

    /// <inheritdoc/>
    public IReadOnlyList<VolumeFile> List(string folder) =>
    [
        .. NamesIn(folder)
            .Select(name => Find($"{folder}\\{name}") is { } file ? file with { Name = name } : null)
            .OfType<VolumeFile>()
    ];

    /// <summary>The names in a folder; none where there is no such folder.</summary>
    internal List<string> NamesIn(string folder)
    {
        var names = new List<string>();
        using var inode = TryInode(folder);
        if (inode.Handle != 0 && inode.IsFolder) ReadNames(inode, names);
        return names;
    }

    /// <inheritdoc/>
    public IReadableBlocks OpenFile(string path)
    {
        var inode = Inode(path);
        if (inode.IsFolder)
        {
            inode.Dispose();
            throw new UnreadableException(
                $"{path} can't be read as a file.",
                "A folder stands in its place.",
                "Rename the folder, and recreate the file.");
        }

        // Read through the library it would be nothing but zeros.
        return (inode.Marks & FileMarks.Reparse) == FileMarks.None
            ? Opened(new NtfsFile(library, inode, path, device: device))
            : OpenElsewhere(inode, path);
    }

    private PackedBlocks OpenElsewhere(NtfsInode inode, string path)
    {
        NtfsReparsePoint? point;
        using (inode) point = ReparsePointOf(inode, path);
        if (point?.Packing is not { } method)
        {
            throw new UnreadableException(
                $"{path} can't be read here.",
                $"It stands for {point?.Names ?? "something that its mark does not name"}.",
                "Windows reads it; where it is needed elsewhere, take it from an installation medium of the same build.");
        }

        var length = Find(path)!.SizeBytes;
        if (!unpackers.TryGetValue(method, out var unpacker)) unpackers[method] = unpacker = new Unpacker(method, path);
        var stream = Opened(new NtfsFile(library, Inode(path), path, device: device, stream: NtfsReparsePoint.PackedStream));
        return new PackedBlocks(stream, length, method, unpacker, path);
    }

    private NtfsReparsePoint? ReparsePointOf(NtfsInode inode, string path)
    {
        const int mostBytes = 16 * 1024;                        // as Windows allows
        var attribute = library.AttrOpen(inode.Handle, NtfsFile.ReparseType, library.Unnamed, 0);
        if (attribute == 0) return null;
        try
        {
            var bytes = new byte[(int)Math.Clamp(*(long*)(attribute + NtfsFile.SizeAt), 0, mostBytes)];
            fixed (byte* start = bytes)
            {
                if (bytes.Length > 0 && library.AttrPread(attribute, 0, bytes.Length, start) != bytes.Length)
                    throw Failed(path, "read");
            }

            return NtfsReparsePoint.TryRead(bytes);
        }
        finally
        {
            library.AttrClose(attribute);
        }
    }

    /// <inheritdoc/>
    public void WriteFile(string path, ReadOnlySpan<byte> contents)
    {
        using var file = FileToReplace(path);
        file.Replace(contents);
    }

    /// <inheritdoc/>
    public void WriteFile(string path, IReadableBlocks contents)
    {
        using var file = FileToReplace(path);
        file.Replace(contents);
    }

    /// <summary>The file that is to have new contents, made where it is not there.</summary>
    private NtfsFile FileToReplace(string path)
    {
        var existing = Find(path);
        if (existing is { IsFolder: true })
        {
            throw new UnreadableException(
                $"{path} can't be written.",
                "A folder stands in its place.",
                "Rename the folder first.");
        }

        if (existing is null) MakeUncompressed(path, RegularFile);
        else if (IsPacked(existing) || IsLinked(path)) Supersede(path, existing);
        return new NtfsFile(library, Inode(path), path, device: device);
    }

    private static bool IsPacked(VolumeFile file) =>
        (file.Marks & (FileMarks.Compressed | FileMarks.Encrypted | FileMarks.Sparse | FileMarks.Reparse)) != FileMarks.None;

    private bool IsLinked(string path)
    {
        using var inode = Inode(path);
        return inode.IsLinked;
    }

    /// <summary>
    /// Puts an empty file of its own in the place of one that can't take new contents as it is, or whose contents another name
    /// has too, with the same attributes and rights.
    /// </summary>
    private void Supersede(string path, VolumeFile existing)
    {
        byte[] descriptor;
        using (var old = Inode(path)) descriptor = security.Read(old);
        Delete(path);
        MakeUncompressed(path, RegularFile);
        SetMarks(path, existing.Marks & FileMarks.Changeable);
        using var inode = Inode(path);
        security.Write(inode, descriptor);
    }

    /// <inheritdoc/>
    public void Patch(string path, long offsetBytes, ReadOnlySpan<byte> bytes)
    {
        using var file = new NtfsFile(library, Inode(path), path, device: device);
        file.Patch(offsetBytes, bytes);
    }

    /// <inheritdoc/>
    public void Grow(string path, long lengthBytes)
    {
        using var file = new NtfsFile(library, Inode(path), path, device: device);
        file.Grow(lengthBytes);
    }

    /// <inheritdoc/>
    public DateTimeOffset? WrittenAt(string path)
    {
        const int writtenAt = 8, needed = 16;
        var inode = TryInode(path);
        if (inode.Handle == 0) return null;
        using var information = new NtfsFile(library, inode, path, NtfsFile.StandardInformationType, device);
        var time = information.LengthBytes >= needed
            ? BitConverter.ToInt64(information.ReadBytes(0, needed).AsSpan(writtenAt))
            : 0;
        return time > 0 && time < DateTimeOffset.MaxValue.ToFileTime()
            ? DateTimeOffset.FromFileTime(time).ToUniversalTime()
            : null;
    }

    /// <summary>The standard information of a file; null where there is no such file.</summary>
    internal NtfsFile? InformationOf(string path)
    {
        var inode = TryInode(path);
        return inode.Handle == 0 ? null : new NtfsFile(library, inode, path, NtfsFile.StandardInformationType, device);
    }

    /// <inheritdoc/>
    public void CreateFolder(string path)
    {
        if (path.Length == 0 || this.FolderExists(path)) return;
        CreateFolder(VolumeExtensions.FolderOf(path));
        Make(path, Folder);
    }

    /// <inheritdoc/>
    public void Rename(string path, string newName)
    {
        var inode = Inode(path);
        var folder = Inode(VolumeExtensions.FolderOf(path));
        fixed (char* name = newName)
        {
            if (library.Link(inode.Handle, folder.Handle, name, (byte)newName.Length) != 0)
            {
                var error = Failed(path, "renamed");
                inode.Dispose();
                folder.Dispose();
                throw error;
            }
        }

        DeleteName(path, inode, folder);
    }

    /// <summary>Gives a file a second name, in whichever folder.</summary>
    internal void Link(string path, string otherPath)
    {
        using var inode = Inode(path);
        using var folder = Inode(VolumeExtensions.FolderOf(otherPath));
        var otherName = VolumeExtensions.NameOf(otherPath);
        fixed (char* name = otherName)
        {
            if (library.Link(inode.Handle, folder.Handle, name, (byte)otherName.Length) != 0) throw Failed(otherPath, "linked");
        }
    }

    /// <inheritdoc/>
    public void Delete(string path) => DeleteName(path, Inode(path), Inode(VolumeExtensions.FolderOf(path)));

    /// <inheritdoc/>
    public void SetMarks(string path, FileMarks marks)
    {
        using var inode = Inode(path);
        var value = (uint)((inode.Marks & ~FileMarks.Changeable & ~FileMarks.Folder) | (marks & FileMarks.Changeable));
        if (library.SetAttrib(inode.Handle, (byte*)&value, sizeof(uint), 0) != 0) throw Failed(path, "given attributes");
    }

    /// <inheritdoc/>
    public void SetWritten(string path, DateTimeOffset time)
    {
        const int times = 3;
        using var inode = Inode(path);
        var fileTime = time.ToFileTime();
        var value = stackalloc long[times] { fileTime, fileTime, fileTime };
        if (library.SetTimes(inode.Handle, (byte*)value, times * sizeof(long), 0) != 0) throw Failed(path, "given a time");
    }

    /// <summary>Says whether files that are created in a folder from now on are compressed.</summary>
    internal void CompressNewFiles(string folder, bool compress)
    {
        using var inode = Inode(folder);
        var value = (uint)((inode.Marks & ~FileMarks.Compressed) | (compress ? FileMarks.Compressed : FileMarks.None));
        if (library.SetAttrib(inode.Handle, (byte*)&value, sizeof(uint), 0) != 0) throw Failed(folder, "given attributes");
    }

    /// <summary>Creates a compressed file, as one that was written in a compressed folder.</summary>
    internal void WriteCompressed(string path, ReadOnlySpan<byte> contents)
    {
        var folder = VolumeExtensions.FolderOf(path);
        CompressNewFiles(folder, compress: true);
        Make(path, RegularFile);
        CompressNewFiles(folder, compress: false);
        using var file = new NtfsFile(library, Inode(path), path, device: device);
        file.Replace(contents);
    }

    /// <summary>Packs a file in its place, under all of its names, as Windows' overlay does it.</summary>
    /// <param name="path">The file.</param>
    /// <param name="method">The method's number.</param>
    internal void Pack(string path, uint method)
    {
        var contents = this.ReadFile(path);
        using (var hole = new NtfsFile(library, Inode(path), path, device: device))
        {
            hole.Replace([]);
            if (!hole.Extend(contents.Length)) throw Failed(path, "made longer");
        }

        using var inode = Inode(path);
        var packed = Packer.Pack(contents, PackingMethod.ByNumber(method)!.Value, path);
        fixed (char* name = NtfsReparsePoint.PackedStream)
        {
            fixed (byte* start = packed)
            {
                const byte nameLength = 17;
                if (library.AttrAdd(inode.Handle, NtfsFile.DataType, name, nameLength, start, packed.Length) != 0)
                    throw Failed(path, "given a stream");
            }
        }

        var point = NtfsReparsePoint.OfPacked(method);
        fixed (byte* start = point)
        {
            if (library.SetReparseData(inode.Handle, start, (nuint)point.Length, 0) != 0) throw Failed(path, "marked as packed");
        }
    }

    /// <summary>Writes over what is packed of a file, as it stands on the disk.</summary>
    internal void PatchPacked(string path, long offsetBytes, ReadOnlySpan<byte> bytes)
    {
        using var file = new NtfsFile(library, Inode(path), path, device: device, stream: NtfsReparsePoint.PackedStream);
        file.Patch(offsetBytes, bytes);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        if (volume == 0) return;
        foreach (var file in open) file.Dispose();
        foreach (var unpacker in unpackers.Values) unpacker.Dispose();
        _ = library.Umount(volume, 1);
        volume = 0;
        security.Dispose();
        device.Dispose();
    }

    /// <summary>Gives the volume up; what was written is in the blocks below by then.</summary>
    public void Close()
    {
        if (volume == 0) return;
        device.Forget();
        foreach (var file in open) file.Dispose();
        foreach (var unpacker in unpackers.Values) unpacker.Dispose();
        var error = library.Umount(volume, 0) == 0 ? null : Failed("The volume", "closed");
        var fault = device.Fault is null ? error : Failed("The volume", "closed");
        volume = 0;
        security.Dispose();
        device.Dispose();
        if (fault is not null) throw fault;
    }

    private NtfsFile Opened(NtfsFile file)
    {
        open.Add(file);
        return file;
    }

    private NtfsInode TryInode(string path)
    {
        device.Forget();
        fixed (byte* text = Encoding.UTF8.GetBytes(path.Replace('\\', '/').TrimEnd('/') + "/\0"))
        {
            var inode = new NtfsInode(library, library.PathnameToInode(volume, 0, text));
            if (inode.Handle == 0
                && (device.Fault is not null || Marshal.GetLastSystemError() is not (NoSuchFile or NotFolder or NameTooLong)))
            {
                throw Failed(path, "looked up");
            }

            return inode;
        }
    }

    private NtfsInode Inode(string path)
    {
        var inode = TryInode(path);
        return inode.Handle != 0 ? inode : throw Failed(path, "opened");
    }

    private VolumeFile Describe(NtfsInode inode, string name)
    {
        if (inode.IsFolder) return new VolumeFile(name, IsFolder: true, 0, inode.Marks | FileMarks.Folder);
        var attribute = library.AttrOpen(inode.Handle, NtfsFile.DataType, library.Unnamed, 0);
        if (attribute == 0) return new VolumeFile(name, IsFolder: false, 0, inode.Marks);
        var size = *(long*)(attribute + NtfsFile.SizeAt);
        library.AttrClose(attribute);
        var marks = inode.Marks;
        return new VolumeFile(name, IsFolder: false, size, marks)
        {
            IsPacked = (marks & FileMarks.Reparse) != FileMarks.None && ReparsePointOf(inode, name)?.Packing is not null
        };
    }

    /// <summary>
    /// The library shows names in lower case while it ignores case, so it minds case for the length of this call.
    /// </summary>
    /// <remarks>Kept out of its callers, to be on the safe side: it takes addresses as <see cref="NtfsDevice"/> does.</remarks>
    [MethodImpl(MethodImplOptions.NoInlining | MethodImplOptions.NoOptimization)]
    private void ReadNames(NtfsInode folder, List<string> names)
    {
        var state = (long*)(volume + StateAt);
        var target = GCHandle.Alloc(names);
        *state |= CaseSensitiveBit;
        try
        {
            long position = 0;
            device.Forget();
            if (library.Readdir(folder.Handle, &position, GCHandle.ToIntPtr(target), &TakeName) != 0
                && (device.Fault is not null || names.Count < NamesLimit))
            {
                throw Failed("A folder", "listed");
            }
        }
        finally
        {
            *state &= ~CaseSensitiveBit;
            target.Free();
        }
    }

    [UnmanagedCallersOnly]
    private static int TakeName(nint target, char* name, int length, int kind, long position, ulong reference, uint type)
    {
        const int dosNameOnly = 2, longestName = 255;
        const ulong numberMask = 0xFFFFFFFFFFFF, firstOfUsers = 16;
        if ((reference & numberMask) < firstOfUsers) return 0;         // the file system's own, such as $MFT
        if (length is < 0 or > longestName) return -1;          // nothing may be thrown through the library
        var names = (List<string>)GCHandle.FromIntPtr(target).Target!;
        var text = new string(name, 0, length);
        if (kind != dosNameOnly && text is not ("." or "..")) names.Add(text);
        return names.Count < NamesLimit ? 0 : -1;
    }

    /// <summary>A new file inherits the compression of its folder, and boot code reads no compressed file.</summary>
    private void MakeUncompressed(string path, uint kind)
    {
        var folder = VolumeExtensions.FolderOf(path);
        bool isCompressed;
        using (var inode = Inode(folder)) isCompressed = (inode.Marks & FileMarks.Compressed) != FileMarks.None;
        if (isCompressed) CompressNewFiles(folder, compress: false);
        try
        {
            Make(path, kind);
        }
        finally
        {
            if (isCompressed) CompressNewFiles(folder, compress: true);
        }
    }

    private void Make(string path, uint kind)
    {
        using var folder = Inode(VolumeExtensions.FolderOf(path));
        var newName = VolumeExtensions.NameOf(path);
        var id = security.IdFor(path, folder, isFolder: kind == Folder);
        fixed (char* name = newName)
        {
            var made = library.Create(folder.Handle, id, name, (byte)newName.Length, kind);
            if (made == 0) throw Failed(path, "created");
            _ = library.InodeClose(made);
        }
    }

    /// <summary>The library closes both inodes, whatever happens.</summary>
    private void DeleteName(string path, NtfsInode inode, NtfsInode folder)
    {
        var oldName = VolumeExtensions.NameOf(path);
        fixed (char* name = oldName)
        {
            if (library.Delete(volume, null, inode.Handle, folder.Handle, name, (byte)oldName.Length) != 0)
                throw Failed(path, "deleted");
        }
    }

    private KeelException Failed(string path, string verb) => device.Fault switch
    {
        ReadFailedException failed => failed.In(path),
        { } fault => new UnreadableException($"{path} can't be {verb}. {fault.What}", fault.Why, fault.Todo, fault),
        null => new UnreadableException(
            $"{path} can't be {verb}.",
            $"The file system says: {Marshal.GetPInvokeErrorMessage(Marshal.GetLastSystemError())}.",
            "Check the volume's file system; where it is damaged, copy the data off first.")
    };

    private static KeelException NotMounted(string name, int error, KeelException? fault) => error switch
    {
        NotPermitted => NotNow(
            name,
            "Windows is hibernated on it, or was closed with fast start-up.",
            "Where it neither resumes nor starts: 'keel mend DISK --give-up-session' gives the session up, as a step of its "
                + "own."),
        NotSupported => NotNow(
            name,
            "Its journal holds changes that were never written in place.",
            "The next start of Windows does that by itself, and so does a check of the file system from Windows' own recovery. "
                + "Where neither can be had: make an image, let ntfsrecover (of ntfs-3g) replay the journal, and run the same "
                + "command again."),
        _ when fault is ReadFailedException failed => failed.In(name),
        _ => new UnreadableException(
            $"{name} can't be read as NTFS.",
            fault is null ? $"The file system says: {Marshal.GetPInvokeErrorMessage(error)}." : fault.What,
            "Its file system is damaged: copy what you can, then have it checked by Windows.",
            fault)
    };

    private static RefusedException NotNow(string name, string why, string todo) =>
        new($"{name} is not in a state to be written, and nothing was.", why, todo);
}

using System.Runtime.InteropServices;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>
/// Who may do what with a file: what Windows would have given a new one. The library alone gives "everyone, everything" to every
/// file that it makes, which is never right among the files of a system.
/// </summary>
/// <remarks>
/// A new file has what its folder hands down; one that is put back among files of the system has what its neighbours of the
/// same kind have; one that takes another's place has what that one had.
/// </remarks>
internal sealed unsafe class NtfsSecurity : IDisposable
{
    private const int ContextBytes = 64, CacheAt = 24;      // struct SECURITY_CONTEXT: vol, mapping[2], pseccache, uid, gid, …
    private const int IdAt = 0x34, InformationBytes = 0x38, NeighboursAsked = 64, LargestDescriptor = 64 * 1024;

    /// <summary>Folders whose files have descriptors of their own kind, rather than what the folder hands down.</summary>
    private static readonly string[] SystemFolders = [@"\Windows\", @"\Boot\", @"\EFI\"];

    private readonly NtfsLibrary library;
    private readonly NtfsVolume volume;
    private readonly nint context;

    public NtfsSecurity(NtfsLibrary library, NtfsVolume volume, nint handle)
    {
        this.library = library;
        this.volume = volume;
        context = (nint)NativeMemory.AllocZeroed(ContextBytes + (nuint)sizeof(nint));
        *(nint*)context = handle;
        *(nint*)(context + CacheAt) = context + ContextBytes;       // an empty cache
    }

    /// <summary>The number of the descriptor for a new file or folder; 0 where nothing tells.</summary>
    public uint IdFor(string path, NtfsInode folder, bool isFolder) =>
        !isFolder && IsOfSystem(path) && NeighboursId(path) is { } id ? id
            : library.InheritedId(context, folder.Handle, isFolder ? 1 : 0);

    /// <summary>The descriptor of a file; empty where it can't be read.</summary>
    public byte[] Read(NtfsInode inode)
    {
        var bytes = new byte[LargestDescriptor];
        fixed (byte* place = bytes)
        {
            var size = library.GetDescriptor(context, inode.Handle, place, LargestDescriptor);
            return size is > 0 and <= LargestDescriptor ? bytes[..size] : [];
        }
    }

    /// <summary>Gives a file a descriptor; what the library doesn't take, changes nothing.</summary>
    public void Write(NtfsInode inode, ReadOnlySpan<byte> descriptor)
    {
        if (descriptor.IsEmpty) return;
        fixed (byte* place = descriptor) _ = library.SetDescriptor(context, inode.Handle, place, (nuint)descriptor.Length, 0);
    }

    public void Dispose() => NativeMemory.Free((void*)context);

    private static bool IsOfSystem(string path) =>
        VolumeExtensions.FolderOf(path).Length == 0
            || Array.Exists(SystemFolders, folder => path.StartsWith(folder, StringComparison.OrdinalIgnoreCase));

    /// <summary>
    /// What most files of its kind beside it have; null where none has one by number. A neighbour that can't be read says
    /// nothing, and keeps nobody from writing.
    /// </summary>
    private uint? NeighboursId(string path)
    {
        var folder = VolumeExtensions.FolderOf(path);
        var kind = Path.GetExtension(VolumeExtensions.NameOf(path));
        var ids = volume.NamesIn(folder)
            .Where(name => Path.GetExtension(name).Equals(kind, StringComparison.OrdinalIgnoreCase))
            .Select(name => $@"{folder}\{name}")
            .Take(NeighboursAsked)
            .Select(IdOf)
            .Where(id => id != 0)
            .GroupBy(id => id)
            .OrderByDescending(group => group.Count())
            .ToList();
        return ids.Count > 0 ? ids[0].Key : null;
    }

    /// <summary>The number that a file says; 0 for a folder, for a descriptor of its own, and where it can't be read.</summary>
    private uint IdOf(string path)
    {
        try
        {
            if (volume.Find(path) is not { IsFolder: false }) return 0;
            using var information = volume.InformationOf(path);
            if (information is null || information.LengthBytes < InformationBytes) return 0;
            return BitConverter.ToUInt32(information.ReadBytes(0, InformationBytes).AsSpan(IdAt));
        }
        catch (KeelException)
        {
            return 0;
        }
    }
}

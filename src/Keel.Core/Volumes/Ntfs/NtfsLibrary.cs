using System.Runtime.InteropServices;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>The calls of libntfs-3g that keel uses, found when the first NTFS volume is opened.</summary>
/// <remarks>Signatures from the library's headers volume.h, inode.h, attrib.h, dir.h, security.h (2022.10.3; unchanged since 2010).</remarks>
internal sealed unsafe class NtfsLibrary
{
    private static readonly string[] Names = ["libntfs-3g.so.89", "libntfs-3g.so.883", "libntfs-3g.so.88", "libntfs-3g.so"];

    public readonly delegate* unmanaged<byte*, nint, nint*, nint, nint> DeviceAlloc;
    public readonly delegate* unmanaged<nint, int> DeviceFree;
    public readonly delegate* unmanaged<nint, nuint, nint> DeviceMount;
    public readonly delegate* unmanaged<nint, int, int> Umount;
    public readonly delegate* unmanaged<nint, int> SetIgnoreCase;
    public readonly delegate* unmanaged<nint, ulong, nint> InodeOpen;
    public readonly delegate* unmanaged<nint, int> InodeClose;
    public readonly delegate* unmanaged<nint, nint, byte*, nint> PathnameToInode;
    public readonly delegate* unmanaged<nint, uint, nint, uint, nint> AttrOpen;
    public readonly delegate* unmanaged<nint, void> AttrClose;
    public readonly delegate* unmanaged<nint, long, long, void*, long> AttrPread;
    public readonly delegate* unmanaged<nint, long, long, void*, long> AttrPwrite;
    public readonly delegate* unmanaged<nint, int> AttrPclose;
    public readonly delegate* unmanaged<nint, long, int> AttrTruncate;
    public readonly delegate* unmanaged<nint, long*, nint, delegate* unmanaged<nint, char*, int, int, long, ulong, uint, int>, int> Readdir;
    public readonly delegate* unmanaged<nint, uint, char*, byte, uint, nint> Create;
    public readonly delegate* unmanaged<nint, byte*, nint, nint, char*, byte, int> Delete;
    public readonly delegate* unmanaged<nint, nint, char*, byte, int> Link;
    public readonly delegate* unmanaged<nint, byte*, nuint, int> GetAttrib;
    public readonly delegate* unmanaged<nint, byte*, nuint, int, int> SetAttrib;

    /// <summary>The name by which the library asks for the unnamed stream.</summary>
    public readonly nint Unnamed;

    private NtfsLibrary(nint library)
    {
        DeviceAlloc = (delegate* unmanaged<byte*, nint, nint*, nint, nint>)Get(library, "ntfs_device_alloc");
        DeviceFree = (delegate* unmanaged<nint, int>)Get(library, "ntfs_device_free");
        DeviceMount = (delegate* unmanaged<nint, nuint, nint>)Get(library, "ntfs_device_mount");
        Umount = (delegate* unmanaged<nint, int, int>)Get(library, "ntfs_umount");
        SetIgnoreCase = (delegate* unmanaged<nint, int>)Get(library, "ntfs_set_ignore_case");
        InodeOpen = (delegate* unmanaged<nint, ulong, nint>)Get(library, "ntfs_inode_open");
        InodeClose = (delegate* unmanaged<nint, int>)Get(library, "ntfs_inode_close");
        PathnameToInode = (delegate* unmanaged<nint, nint, byte*, nint>)Get(library, "ntfs_pathname_to_inode");
        AttrOpen = (delegate* unmanaged<nint, uint, nint, uint, nint>)Get(library, "ntfs_attr_open");
        AttrClose = (delegate* unmanaged<nint, void>)Get(library, "ntfs_attr_close");
        AttrPread = (delegate* unmanaged<nint, long, long, void*, long>)Get(library, "ntfs_attr_pread");
        AttrPwrite = (delegate* unmanaged<nint, long, long, void*, long>)Get(library, "ntfs_attr_pwrite");
        AttrPclose = (delegate* unmanaged<nint, int>)Get(library, "ntfs_attr_pclose");
        AttrTruncate = (delegate* unmanaged<nint, long, int>)Get(library, "ntfs_attr_truncate");
        Readdir = (delegate* unmanaged<nint, long*, nint, delegate* unmanaged<nint, char*, int, int, long, ulong, uint, int>, int>)Get(library, "ntfs_readdir");
        Create = (delegate* unmanaged<nint, uint, char*, byte, uint, nint>)Get(library, "ntfs_create");
        Delete = (delegate* unmanaged<nint, byte*, nint, nint, char*, byte, int>)Get(library, "ntfs_delete");
        Link = (delegate* unmanaged<nint, nint, char*, byte, int>)Get(library, "ntfs_link");
        GetAttrib = (delegate* unmanaged<nint, byte*, nuint, int>)Get(library, "ntfs_get_ntfs_attrib");
        SetAttrib = (delegate* unmanaged<nint, byte*, nuint, int, int>)Get(library, "ntfs_set_ntfs_attrib");
        Unnamed = Get(library, "AT_UNNAMED");
    }

    /// <summary>Loads the library; the system keeps it loaded, so a second call is cheap.</summary>
    /// <exception cref="UnreadableException">It isn't installed.</exception>
    public static NtfsLibrary Load()
    {
        foreach (var name in Names)
        {
            if (NativeLibrary.TryLoad(name, out var library)) return new NtfsLibrary(library);
        }

        throw new UnreadableException(
            "NTFS volumes can't be read.",
            "The library libntfs-3g is not installed.",
            "Install it (on Debian: apt install libntfs-3g89, or the package ntfs-3g) and run the same command again.");
    }

    private static nint Get(nint library, string name) => NativeLibrary.GetExport(library, name);
}

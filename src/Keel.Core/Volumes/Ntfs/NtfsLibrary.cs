using System.Runtime.InteropServices;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>The calls of libntfs-3g that keel uses, found when the first NTFS volume is opened.</summary>
/// <remarks>Signatures from the library's headers volume.h, inode.h, attrib.h, dir.h, security.h (2022.10.3; unchanged since
///     2010).</remarks>
internal sealed unsafe class NtfsLibrary
{
    private const string Unversioned = "libntfs-3g.so";
    private static readonly string[] Versioned = ["libntfs-3g.so.89", "libntfs-3g.so.883", "libntfs-3g.so.88"];

    /// <summary>Releases whose structures are laid out as the bindings here read them.</summary>
    private static readonly string[] KnownVersions = ["2016.2.22", "2017.3.23", "2021.8.22", "2022.5.17", "2022.10.3"];

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

    /// <summary>The same, with clusters for all that is new, and no holes.</summary>
    public readonly delegate* unmanaged<nint, long, int> AttrTruncateSolid;

    /// <summary>The callback gets name, length, kind of name, place, number and kind of each file.</summary>
    public readonly delegate* unmanaged<
        nint,
        long*,
        nint,
        delegate* unmanaged<nint, char*, int, int, long, ulong, uint, int>,
        int> Readdir;

    public readonly delegate* unmanaged<nint, uint, char*, byte, uint, nint> Create;
    public readonly delegate* unmanaged<nint, byte*, nint, nint, char*, byte, int> Delete;
    public readonly delegate* unmanaged<nint, nint, char*, byte, int> Link;
    public readonly delegate* unmanaged<nint, byte*, nuint, int> GetAttrib;
    public readonly delegate* unmanaged<nint, byte*, nuint, int, int> SetAttrib;
    public readonly delegate* unmanaged<nint, byte*, nuint, int, int> SetTimes;

    /// <summary>The number that $Secure has, or now has, for what a new file or folder inherits; 0 where it can't say.</summary>
    public readonly delegate* unmanaged<nint, nint, int, uint> InheritedId;

    public readonly delegate* unmanaged<nint, nint, byte*, nuint, int> GetDescriptor;
    public readonly delegate* unmanaged<nint, nint, byte*, nuint, int, int> SetDescriptor;

    /// <summary>Gives a file another attribute: its kind, name, contents.</summary>
    public readonly delegate* unmanaged<nint, uint, char*, byte, byte*, long, int> AttrAdd;

    public readonly delegate* unmanaged<nint, byte*, nuint, int, int> SetReparseData;

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
        AttrTruncateSolid = (delegate* unmanaged<nint, long, int>)Get(library, "ntfs_attr_truncate_solid");
        Readdir = (delegate* unmanaged<
            nint,
            long*,
            nint,
            delegate* unmanaged<nint, char*, int, int, long, ulong, uint, int>,
            int>)Get(library, "ntfs_readdir");
        Create = (delegate* unmanaged<nint, uint, char*, byte, uint, nint>)Get(library, "ntfs_create");
        Delete = (delegate* unmanaged<nint, byte*, nint, nint, char*, byte, int>)Get(library, "ntfs_delete");
        Link = (delegate* unmanaged<nint, nint, char*, byte, int>)Get(library, "ntfs_link");
        GetAttrib = (delegate* unmanaged<nint, byte*, nuint, int>)Get(library, "ntfs_get_ntfs_attrib");
        SetAttrib = (delegate* unmanaged<nint, byte*, nuint, int, int>)Get(library, "ntfs_set_ntfs_attrib");
        SetTimes = (delegate* unmanaged<nint, byte*, nuint, int, int>)Get(library, "ntfs_inode_set_times");
        InheritedId = (delegate* unmanaged<nint, nint, int, uint>)Get(library, "ntfs_inherited_id");
        GetDescriptor = (delegate* unmanaged<nint, nint, byte*, nuint, int>)Get(library, "ntfs_get_ntfs_acl");
        SetDescriptor = (delegate* unmanaged<nint, nint, byte*, nuint, int, int>)Get(library, "ntfs_set_ntfs_acl");
        AttrAdd = (delegate* unmanaged<nint, uint, char*, byte, byte*, long, int>)Get(library, "ntfs_attr_add");
        SetReparseData = (delegate* unmanaged<nint, byte*, nuint, int, int>)Get(library, "ntfs_set_ntfs_reparse_data");
        Unnamed = Get(library, "AT_UNNAMED");
    }

    /// <summary>
    /// Sees to it that volumes can be judged at all: without the library every one of them would look as if its files were gone.
    /// </summary>
    /// <exception cref="UnreadableException">It isn't installed, or is one that keel can't use.</exception>
    public static void Require() => _ = Load();

    /// <summary>Loads the library; the system keeps it loaded, so a second call is cheap.</summary>
    /// <exception cref="UnreadableException">It isn't installed, or is one whose structures keel does not know.</exception>
    public static NtfsLibrary Load()
    {
        foreach (var name in Versioned)
        {
            if (NativeLibrary.TryLoad(name, out var library)) return Bind(library, name);
        }

        if (NativeLibrary.TryLoad(Unversioned, out var unknown))
        {
            RefuseUnknown(unknown);
            return Bind(unknown, Unversioned);
        }

        throw new UnreadableException(
            "NTFS volumes can't be read.",
            "The library libntfs-3g is not installed.",
            "Install it (on Debian: apt install libntfs-3g89, or the package ntfs-3g) and run the same command again.");
    }

    /// <summary>keel reads fields of the library's structures by their place, which only its version tells.</summary>
    internal static bool IsKnownVersion(string? version) =>
        version is not null && Array.Exists(KnownVersions, known => version.StartsWith(known, StringComparison.Ordinal));

    private static void RefuseUnknown(nint library)
    {
        var version = NativeLibrary.TryGetExport(library, "ntfs_libntfs_version", out var says)
            ? Marshal.PtrToStringUTF8(((delegate* unmanaged<nint>)says)())
            : null;
        if (!IsKnownVersion(version))
            throw Unusable($"{Unversioned} says that it is version {version ?? "unknown"}, whose structures keel does not know");
    }

    private static NtfsLibrary Bind(nint library, string name)
    {
        try
        {
            return new NtfsLibrary(library);
        }
        catch (EntryPointNotFoundException e)
        {
            throw Unusable($"{name} lacks a call that keel needs: {e.Message.TrimEnd('.')}");
        }
    }

    private static UnreadableException Unusable(string why) => new(
        "NTFS volumes can't be read.",
        $"The library libntfs-3g is not one that keel can use: {why}.",
        "Install Debian's (apt install libntfs-3g89) and run the same command again.");

    private static nint Get(nint library, string name) => NativeLibrary.GetExport(library, name);
}

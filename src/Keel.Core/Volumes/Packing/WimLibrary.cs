using System.Runtime.InteropServices;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Packing;

/// <summary>The calls of libwim that keel uses, found when the first packed file or image of files is read.</summary>
/// <remarks>Signatures from the library's header wimlib.h (1.13; unchanged since 1.9).</remarks>
internal sealed unsafe class WimLibrary
{
    public const int Ok = 0;
    private const string Name = "libwim.so.15";
    private const string How = "Install it (on Debian: apt install libwim15) and run the same command again.";

    /// <summary>Kind of packing, largest piece; the decompressor.</summary>
    public readonly delegate* unmanaged<int, nuint, nint*, int> CreateDecompressor;

    /// <summary>What is packed, its length; where it goes, its length; the decompressor.</summary>
    public readonly delegate* unmanaged<byte*, nuint, byte*, nuint, nint, int> Decompress;

    public readonly delegate* unmanaged<nint, void> FreeDecompressor;

    /// <summary>Kind of packing, largest piece, level; the compressor.</summary>
    public readonly delegate* unmanaged<int, nuint, uint, nint*, int> CreateCompressor;

    /// <summary>What is to be packed, its length; where it goes, the room there; the compressor. The length, or 0.</summary>
    public readonly delegate* unmanaged<byte*, nuint, byte*, nuint, nint, nuint> Compress;

    public readonly delegate* unmanaged<nint, void> FreeCompressor;

    /// <summary>Flags.</summary>
    public readonly delegate* unmanaged<int, int> GlobalInit;

    /// <summary>The file's path, flags; what was opened.</summary>
    public readonly delegate* unmanaged<byte*, int, nint*, int> OpenWim;

    public readonly delegate* unmanaged<nint, void> Free;

    /// <summary>Fills struct wimlib_wim_info.</summary>
    public readonly delegate* unmanaged<nint, byte*, int> GetInfo;

    /// <summary>The image's number from 1, the element's path in the XML; its text, or 0.</summary>
    public readonly delegate* unmanaged<nint, int, byte*, nint> ImageProperty;

    /// <summary>The image's number, a path in it, flags; called for each entry, with what is given.</summary>
    public readonly delegate* unmanaged<
        nint,
        int,
        byte*,
        int,
        delegate* unmanaged<byte*, nint, int>,
        nint,
        int> IterateTree;

    /// <summary>The image's number, the folder to put files in, their paths, how many, flags.</summary>
    public readonly delegate* unmanaged<nint, int, byte*, byte**, nuint, int, int> ExtractPaths;

    /// <summary>Kind of packing; what was made.</summary>
    public readonly delegate* unmanaged<int, nint*, int> CreateWim;

    /// <summary>The folder, the image's name, settings or 0, flags.</summary>
    public readonly delegate* unmanaged<nint, byte*, byte*, nint, int, int> AddImage;

    /// <summary>The image's number, the element's path in the XML, its text.</summary>
    public readonly delegate* unmanaged<nint, int, byte*, byte*, int> SetImageProperty;

    /// <summary>The file's path, which image (-1: all), flags, how many threads.</summary>
    public readonly delegate* unmanaged<nint, byte*, int, int, uint, int> Write;

    private readonly delegate* unmanaged<int, nint> errorText;

    private WimLibrary(nint library)
    {
        GlobalInit = (delegate* unmanaged<int, int>)Get(library, "wimlib_global_init");
        OpenWim = (delegate* unmanaged<byte*, int, nint*, int>)Get(library, "wimlib_open_wim");
        Free = (delegate* unmanaged<nint, void>)Get(library, "wimlib_free");
        GetInfo = (delegate* unmanaged<nint, byte*, int>)Get(library, "wimlib_get_wim_info");
        ImageProperty = (delegate* unmanaged<nint, int, byte*, nint>)Get(library, "wimlib_get_image_property");
        IterateTree = (delegate* unmanaged<
            nint,
            int,
            byte*,
            int,
            delegate* unmanaged<byte*, nint, int>,
            nint,
            int>)Get(library, "wimlib_iterate_dir_tree");
        ExtractPaths = (delegate* unmanaged<nint, int, byte*, byte**, nuint, int, int>)Get(library, "wimlib_extract_paths");
        CreateWim = (delegate* unmanaged<int, nint*, int>)Get(library, "wimlib_create_new_wim");
        AddImage = (delegate* unmanaged<nint, byte*, byte*, nint, int, int>)Get(library, "wimlib_add_image");
        SetImageProperty = (delegate* unmanaged<nint, int, byte*, byte*, int>)Get(library, "wimlib_set_image_property");
        Write = (delegate* unmanaged<nint, byte*, int, int, uint, int>)Get(library, "wimlib_write");
        errorText = (delegate* unmanaged<int, nint>)Get(library, "wimlib_get_error_string");
        CreateCompressor = (delegate* unmanaged<int, nuint, uint, nint*, int>)Get(library, "wimlib_create_compressor");
        Compress = (delegate* unmanaged<byte*, nuint, byte*, nuint, nint, nuint>)Get(library, "wimlib_compress");
        FreeCompressor = (delegate* unmanaged<nint, void>)Get(library, "wimlib_free_compressor");
        CreateDecompressor = (delegate* unmanaged<int, nuint, nint*, int>)Get(library, "wimlib_create_decompressor");
        Decompress = (delegate* unmanaged<byte*, nuint, byte*, nuint, nint, int>)Get(library, "wimlib_decompress");
        FreeDecompressor = (delegate* unmanaged<nint, void>)Get(library, "wimlib_free_decompressor");
    }

    /// <summary>Whether it is here: what needs it is looked for elsewhere where it isn't.</summary>
    public static bool IsInstalled => NativeLibrary.TryLoad(Name, out _);

    /// <summary>What is said where it is missing.</summary>
    public static UnreadableException NotInstalled(string what) =>
        new($"{what} can't be read.", "That needs the library libwim, which is not installed.", How);

    /// <summary>Loads the library; the system keeps it loaded, so a second call is cheap.</summary>
    /// <param name="what">What can't be read without it.</param>
    /// <exception cref="UnreadableException">It isn't installed, or lacks a call.</exception>
    public static WimLibrary Load(string what)
    {
        if (!NativeLibrary.TryLoad(Name, out var library)) throw NotInstalled(what);
        try
        {
            return new WimLibrary(library);
        }
        catch (EntryPointNotFoundException e)
        {
            throw new UnreadableException(
                $"{what} can't be read.",
                $"The library libwim is not one that keel can use: {e.Message.TrimEnd('.')}.",
                How);
        }
    }

    /// <summary>What a number that a call gave back means.</summary>
    public string TextOf(int error) => Marshal.PtrToStringUTF8(errorText(error)) ?? $"error {error}";

    private static nint Get(nint library, string name) => NativeLibrary.GetExport(library, name);
}

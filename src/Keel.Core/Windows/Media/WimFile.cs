using System.Globalization;
using System.Runtime.InteropServices;
using System.Text;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Volumes.Packing;
using Processor = System.Reflection.PortableExecutable.Machine;

namespace Keel.Core.Windows.Media;

/// <summary>An image of files (WIM, or ESD), read through libwim, which proves each file's SHA-1 as it takes it out.</summary>
public sealed unsafe class WimFile : IDisposable
{
    private const int CaseInsensitive = 0x20;                   // WIMLIB_INIT_FLAG_DEFAULT_CASE_INSENSITIVE
    private const int OfChildren = 0x2;                         // WIMLIB_ITERATE_DIR_TREE_FLAG_CHILDREN
    private const int NoSuchPath = 49;                          // WIMLIB_ERR_PATH_DOES_NOT_EXIST

    /// <summary>WIMLIB_EXTRACT_FLAG_: NO_ACLS, NO_ATTRIBUTES, NO_PRESERVE_DIR_STRUCTURE.</summary>
    private const int ContentsAlone = 0x40 | 0x100000 | 0x200000;

    private const int InfoBytes = 256, ImageCountAt = 16;       // struct wimlib_wim_info: guid, image_count
    private const int MostImages = 256, MostNames = 200_000, LimitBytes = 256 * 1024 * 1024;

    private readonly WimLibrary library;
    private nint handle;

    private WimFile(WimLibrary library, nint handle, string name)
    {
        this.library = library;
        this.handle = handle;
        Name = name;
        Images = ReadImages();
    }

    /// <summary>What it is called when it is spoken of.</summary>
    public string Name { get; }

    /// <summary>The images in it.</summary>
    public IReadOnlyList<WimImage> Images { get; }

    /// <summary>Whether the library for it is here.</summary>
    public static bool CanBeRead => WimLibrary.IsInstalled;

    /// <summary>What is said where it isn't.</summary>
    public static UnreadableException NotInstalled(string what) => WimLibrary.NotInstalled(what);

    /// <summary>Whether bytes begin as such a file does.</summary>
    public static bool IsOne(ReadOnlySpan<byte> start) => start.StartsWith("MSWIM\0\0\0"u8);

    /// <summary>Opens one.</summary>
    /// <param name="path">A file of this system.</param>
    /// <param name="name">What it is called when it is spoken of.</param>
    /// <exception cref="UnreadableException">It is none, or damaged; or the library is not installed.</exception>
    public static WimFile Open(string path, string name)
    {
        var library = WimLibrary.Load(name);
        _ = library.GlobalInit(CaseInsensitive);
        nint opened;
        int error;
        fixed (byte* text = Text(path)) error = library.OpenWim(text, 0, &opened);
        return error == WimLibrary.Ok ? new WimFile(library, opened, name) : throw Failed(library, name, error);
    }

    /// <summary>What is at a path of an image: whether it is a folder; null where nothing is.</summary>
    internal bool? IsFolder(WimImage image, string path) =>
        Entries(image, path, 0) is [var only] ? only.IsFolder : null;

    /// <summary>What is in a folder of an image.</summary>
    internal List<(string Name, bool IsFolder, long SizeBytes)> List(WimImage image, string path) =>
        Entries(image, path, OfChildren);

    /// <summary>A whole file of an image.</summary>
    /// <exception cref="UnreadableException">It is not there, or damaged.</exception>
    internal byte[] Read(WimImage image, string path)
    {
        if (IsFolder(image, path) != false)
            throw new UnreadableException($"{path} is not in {Name}.", $"{image} has no such file.", "Name another medium.");
        var folder = Directory.CreateTempSubdirectory("keel-");
        try
        {
            int error;
            fixed (byte* target = Text(folder.FullName), wanted = Text(Slashes(path)))
            {
                var paths = stackalloc byte*[1] { wanted };
                error = library.ExtractPaths(handle, image.Number, target, paths, 1, ContentsAlone);
            }

            if (error != WimLibrary.Ok) throw Failed(library, $"{path} in {Name}", error);
            return HostFile.Read(folder.GetFiles()[0].FullName, LimitBytes);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or IndexOutOfRangeException)
        {
            throw new UnreadableException(
                $"{path} can't be taken out of {Name}.",
                $"The system says: {e.Message}",
                "Free some room in the folder for temporary files, or name another one: TMPDIR=FOLDER before keel.");
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        if (handle != 0) library.Free(handle);
        handle = 0;
    }

    private List<WimImage> ReadImages()
    {
        var info = stackalloc byte[InfoBytes];
        var error = library.GetInfo(handle, info);
        if (error != WimLibrary.Ok) throw Failed(library, Name, error);
        var count = (int)Math.Min(*(uint*)(info + ImageCountAt), MostImages);
        return [.. Enumerable.Range(1, count).Select(ReadImage)];
    }

    private WimImage ReadImage(int number) => new(number, Property(number, "DISPLAYNAME") ?? Property(number, "NAME") ?? "")
    {
        Processor = Number(number, "WINDOWS/ARCH") switch
        {
            0 => Processor.I386,
            9 => Processor.Amd64,
            12 => Processor.Arm64,
            _ => null
        },
        Edition = Property(number, "WINDOWS/EDITIONID"),
        Build = Number(number, "WINDOWS/VERSION/BUILD"),
        Revision = Number(number, "WINDOWS/VERSION/SPBUILD"),
        Language = Property(number, "WINDOWS/LANGUAGES/DEFAULT") ?? Property(number, "WINDOWS/LANGUAGES/LANGUAGE")
    };

    private string? Property(int image, string element)
    {
        fixed (byte* text = Text(element)) return Marshal.PtrToStringUTF8(library.ImageProperty(handle, image, text))?.Trim();
    }

    private int? Number(int image, string element) =>
        int.TryParse(Property(image, element), NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;

    private List<(string Name, bool IsFolder, long SizeBytes)> Entries(WimImage image, string path, int flags)
    {
        var found = new List<(string, bool, long)>();
        var target = GCHandle.Alloc(found);
        try
        {
            int error;
            fixed (byte* text = Text(Slashes(path)))
                error = library.IterateTree(handle, image.Number, text, flags, &Take, GCHandle.ToIntPtr(target));
            if (error is not (WimLibrary.Ok or NoSuchPath)) throw Failed(library, $"{path} in {Name}", error);
            return found;
        }
        finally
        {
            target.Free();
        }
    }

    /// <remarks>struct wimlib_dir_entry: filename; from byte 48 attributes; from 232 the unnamed stream, with its size.</remarks>
    [UnmanagedCallersOnly]
    private static int Take(byte* entry, nint target)
    {
        const int attributesAt = 48, sizeAt = 240;
        const uint folder = 0x10, link = 0x400;
        var names = (List<(string, bool, long)>)GCHandle.FromIntPtr(target).Target!;
        var attributes = *(uint*)(entry + attributesAt);
        // A link would lead out of the image, and be followed where it is taken out.
        if (names.Count >= MostNames || (attributes & link) != 0) return 0;
        var isFolder = (attributes & folder) != 0;
        names.Add((Marshal.PtrToStringUTF8(*(nint*)entry) ?? "", isFolder, isFolder ? 0 : *(long*)(entry + sizeAt)));
        return 0;
    }

    private static string Slashes(string path) => $"/{path.Trim('\\').Replace('\\', '/')}";

    private static byte[] Text(string text) => Encoding.UTF8.GetBytes(text + "\0");

    private static UnreadableException Failed(WimLibrary library, string what, int error) => new(
        $"{what} can't be read.",
        $"The library libwim says: {library.TextOf(error).TrimEnd('.')}.",
        "Compare its checksum with that of the medium it came from; take another copy where it differs.");
}

using System.Globalization;
using System.Text;
using Keel.Core.Errors;
using Keel.Core.Volumes.Packing;

namespace Keel.Core.Drills;

/// <summary>Makes an image of files (WIM) for practice: a recovery environment, or the Windows of a medium.</summary>
internal static unsafe class PracticeWim
{
    private const int Lzx = 2, AllImages = -1;

    /// <param name="path">The file to make.</param>
    /// <param name="name">What the image is called.</param>
    /// <param name="spec">Whose build and processor it says.</param>
    /// <param name="files">Its files, from its top.</param>
    /// <exception cref="UnreadableException">libwim is not installed, or says no.</exception>
    public static void Make(string path, string name, PracticeSpec spec, IEnumerable<(string Path, byte[] Bytes)> files)
    {
        var folder = Directory.CreateTempSubdirectory("keel-image-");
        try
        {
            foreach (var (place, bytes) in files)
            {
                var target = Path.Combine([folder.FullName, .. place.Trim('\\').Split('\\')]);
                Directory.CreateDirectory(Path.GetDirectoryName(target)!);
                File.WriteAllBytes(target, bytes);
            }

            Capture(path, name, spec, folder.FullName);
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    private static void Capture(string path, string name, PracticeSpec spec, string folder)
    {
        var library = WimLibrary.Load("A practice image");
        nint wim;
        Must(library, library.CreateWim(Lzx, &wim));
        try
        {
            fixed (byte* from = Text(folder), called = Text(name)) Must(library, library.AddImage(wim, from, called, 0, 0));
            Say(library, wim, "WINDOWS/ARCH", "9");
            Say(library, wim, "WINDOWS/VERSION/BUILD", spec.Build.ToString(CultureInfo.InvariantCulture));
            Say(library, wim, "WINDOWS/VERSION/SPBUILD", "1");
            fixed (byte* target = Text(path)) Must(library, library.Write(wim, target, AllImages, 0, 1));
        }
        finally
        {
            library.Free(wim);
        }
    }

    private static void Say(WimLibrary library, nint wim, string element, string text)
    {
        fixed (byte* where = Text(element), what = Text(text)) Must(library, library.SetImageProperty(wim, 1, where, what));
    }

    private static void Must(WimLibrary library, int error)
    {
        if (error == WimLibrary.Ok) return;
        throw new UnreadableException(
            "A practice image can't be made.",
            $"The library libwim says: {library.TextOf(error).TrimEnd('.')}.",
            "Name a folder with room for it.");
    }

    private static byte[] Text(string text) => Encoding.UTF8.GetBytes(text + "\0");
}

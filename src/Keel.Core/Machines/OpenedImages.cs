using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Volumes;
using Keel.Core.Windows.Media;

namespace Keel.Core.Machines;

/// <summary>
/// The images of files (WIM) on the machine's volumes that were opened to copy from, each once. The library opens files of this
/// system only, so an image is copied into one that loses its name at once, and is gone with this object.
/// </summary>
internal sealed class OpenedImages : IDisposable
{
    private const int PieceBytes = 1024 * 1024;

    /// <summary>Left free where the copy is put.</summary>
    private const long SpareBytes = 64L * 1024 * 1024;

    private readonly Dictionary<(string Volume, string Path), (WimFile? File, KeelException? Problem)> opened = [];
    private readonly List<FileStream> copies = [];

    /// <summary>The image at a path; null where it can't be read, which <see cref="ProblemWith"/> tells.</summary>
    public WimFile? Of(DiskVolume volume, string path) => Opened(volume, path).File;

    /// <summary>Why an image can't be read; null where it can.</summary>
    public KeelException? ProblemWith(DiskVolume volume, string path) => Opened(volume, path).Problem;

    public void Dispose()
    {
        foreach (var (file, _) in opened.Values) file?.Dispose();
        foreach (var copy in copies) copy.Dispose();
        opened.Clear();
        copies.Clear();
    }

    private (WimFile? File, KeelException? Problem) Opened(DiskVolume volume, string path)
    {
        var key = ($"{volume.DiskPath} {volume.Number}", path.ToUpperInvariant());
        if (opened.TryGetValue(key, out var known)) return known;
        try
        {
            known = (Open(volume, path), null);
        }
        catch (KeelException problem)
        {
            known = (null, problem);
        }

        return opened[key] = known;
    }

    private WimFile Open(DiskVolume volume, string path)
    {
        var name = $"{path} on {volume}";
        if (!WimFile.CanBeRead) throw WimFile.NotInstalled(name);
        var contents = Locks.FilesOf(volume).OpenFile(path);
        var folder = Path.GetTempPath();
        try
        {
            if (new DriveInfo(folder).AvailableFreeSpace < contents.LengthBytes + SpareBytes)
            {
                throw new UnreadableException(
                    $"{name} can't be copied from.",
                    $"{folder} has no room for its {contents.LengthBytes} bytes.",
                    "Name a folder with more room: TMPDIR=FOLDER before keel.");
            }

            var place = Path.Combine(folder, $"keel-{Guid.NewGuid():N}");
            var copy = HostFile.CreateNew(place);
            copies.Add(copy);
            try
            {
                Copy(contents, copy);
                return WimFile.Open(place, name);
            }
            finally
            {
                File.Delete(place);                             // the library keeps it open, and looks for no name again
            }
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                $"{name} can't be copied from.",
                $"The system says: {e.Message}",
                "Name a folder with room that can be written: TMPDIR=FOLDER before keel.",
                e);
        }
    }

    private static void Copy(IReadableBlocks contents, FileStream copy)
    {
        var buffer = new byte[PieceBytes];
        for (var done = 0L; done < contents.LengthBytes;)
        {
            var piece = buffer.AsSpan(0, (int)Math.Min(buffer.Length, contents.LengthBytes - done));
            contents.Read(done, piece);
            copy.Write(piece);
            done += piece.Length;
        }

        copy.Flush();
    }
}

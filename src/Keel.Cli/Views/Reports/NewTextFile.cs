using System.Text;
using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Cli.Views.Reports;

/// <summary>A file that is made for a result, and never replaces anything.</summary>
/// <param name="path">Its path.</param>
internal sealed class NewTextFile(string path)
{
    /// <summary>The full path.</summary>
    public string Path { get; } = System.IO.Path.GetFullPath(path);

    /// <summary>Its ending, in small letters, with the point.</summary>
    public string Ending { get; } = System.IO.Path.GetExtension(path).ToLowerInvariant();

    /// <summary>Judged before anything is done, so that nothing is left to go wrong behind a repair.</summary>
    /// <exception cref="WrongUsageException">It is there, or its folder is not.</exception>
    public void RefuseWhereItCanNotBe()
    {
        if (System.IO.Path.Exists(Path))
            throw new WrongUsageException($"{path} is already there.", "A result never replaces anything.", "Name another file.");
        if (Directory.Exists(System.IO.Path.GetDirectoryName(Path))) return;
        throw new WrongUsageException(
            $"{path} can't be written.",
            $"There is no folder {System.IO.Path.GetDirectoryName(Path)}.",
            "Name a file in a folder that is there.");
    }

    /// <summary>Makes it.</summary>
    /// <exception cref="UnreadableException">It can't be written.</exception>
    public void Write(string text)
    {
        try
        {
            using var file = HostFile.CreateNew(Path);
            file.Write(Encoding.UTF8.GetBytes(text));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                $"{path} can't be written.",
                $"The system says: {e.Message}",
                "Name a file in a folder that can be written, with room for it.",
                e);
        }
    }
}

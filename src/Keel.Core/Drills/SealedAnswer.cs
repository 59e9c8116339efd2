using System.Text;
using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Core.Drills;

/// <summary>The answer of a drill, in a file beside its image, written so that nobody reads it by accident.</summary>
public static class SealedAnswer
{
    private const string Heading = "The answer of this drill is sealed. 'keel drill check DISK --answer' opens it.";
    private const byte Mask = 0x5A;

    /// <summary>The file beside an image that keeps its answer.</summary>
    public static string FileFor(string imagePath) => imagePath + ".sealed";

    /// <summary>Writes down which faults an image has, so that nobody reads it by mistake.</summary>
    public static void Write(string imagePath, IEnumerable<string> faults)
    {
        var bytes = Encoding.UTF8.GetBytes(string.Join('\n', faults)).Select(letter => (byte)(letter ^ Mask)).ToArray();
        try
        {
            using var file = HostFile.CreateNew(FileFor(imagePath));
            file.Write(Encoding.ASCII.GetBytes($"{Heading}\n{Convert.ToBase64String(bytes)}\n"));
        }
        catch (IOException e)
        {
            throw new UnreadableException(
                $"{FileFor(imagePath)} can't be made.",
                $"The system says: {e.Message}.",
                "Name another image: the answer of a drill never replaces anything.",
                e);
        }
    }

    /// <summary>The ids of the faults.</summary>
    /// <exception cref="UnreadableException">There is no such file, or it is damaged.</exception>
    public static IReadOnlyList<string> Read(string imagePath)
    {
        try
        {
            const int mostBytes = 64 * 1024;
            var text = Encoding.UTF8.GetString(HostFile.Read(FileFor(imagePath), mostBytes)).ReplaceLineEndings("\n");
            var sealedLine = text.TrimEnd('\n').Split('\n') is [Heading, { Length: > 0 } line]
                ? line
                : throw new FormatException("It is not what keel writes.");
            return Encoding.UTF8
                .GetString([.. Convert.FromBase64String(sealedLine).Select(letter => (byte)(letter ^ Mask))])
                .Split('\n');
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or FormatException)
        {
            throw new UnreadableException(
                "The answer can't be opened.",
                $"{FileFor(imagePath)}: {e.Message}",
                "Only drills made with 'keel drill new random' keep one; for others 'keel drill list --answers' tells.",
                e);
        }
    }
}

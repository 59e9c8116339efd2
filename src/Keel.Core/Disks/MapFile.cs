using System.Globalization;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Disks;

/// <summary>
/// What an image of a failing disk lacks: the map that ddrescue keeps beside it (its manual, "Mapfile structure"). Zeros stand
/// there in the image, and mean nothing.
/// </summary>
/// <param name="Missing">The ranges that were not read, in bytes, in their order.</param>
public sealed record MapFile(IReadOnlyList<ByteRange> Missing)
{
    /// <summary>What the map of an image is called.</summary>
    public const string Ending = ".map";

    private const int MostBytes = 64 * 1024 * 1024;
    private const string Head = "# Mapfile. Created by GNU ddrescue";

    /// <summary>The map beside an image; null where there is none, or where the file of that name is another.</summary>
    /// <param name="image">The full path of the image.</param>
    public static MapFile? Beside(string image)
    {
        try
        {
            return HostFile.ReadIfThere(image + Ending, MostBytes) is { } bytes ? TryRead(Encoding.UTF8.GetString(bytes)) : null;
        }
        catch (Exception e) when (e is KeelException or IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    /// <summary>Reads a map; null where a text is none.</summary>
    public static MapFile? TryRead(string text)
    {
        const int placeAt = 0, sizeAt = 1, statusAt = 2, words = 3;
        if (!text.StartsWith(Head, StringComparison.Ordinal)) return null;
        var missing = new List<ByteRange>();
        var isStateRead = false;
        foreach (var line in text.Split('\n'))
        {
            if (line.Length == 0 || line[0] == '#') continue;
            if (!isStateRead)
            {
                isStateRead = true;     // where the program was when it wrote the map
                continue;
            }

            var parts = line.Split(' ', StringSplitOptions.RemoveEmptyEntries);
            if (parts.Length < words || NumberOf(parts[placeAt]) is not { } start || NumberOf(parts[sizeAt]) is not { } length)
                return null;
            var isRead = parts[statusAt] == "+" || length == 0 || start > long.MaxValue - length;
            if (!isRead) missing.Add(new ByteRange(start, length));
        }

        return isStateRead ? new MapFile([.. missing.OrderBy(range => range.Start)]) : null;
    }

    private static long? NumberOf(string word) =>
        word.StartsWith("0x", StringComparison.OrdinalIgnoreCase)
            && long.TryParse(word.AsSpan(2), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out var number)
            && number >= 0
            ? number
            : null;
}

using Keel.Core.Errors;

namespace Keel.Core.Windows.Media;

/// <summary>A file that is packed on an installation medium: a cabinet with one file, its name ending in "_".</summary>
public static class PackedFile
{
    /// <summary>The largest file that is unpacked, in bytes; it is held in memory.</summary>
    public const int MostBytes = 64 * 1024 * 1024;

    private const char Mark = '_';

    private static ReadOnlySpan<byte> CabinetMark => "MSCF"u8;

    private static ReadOnlySpan<byte> OlderMark => "SZDD"u8;

    /// <summary>The name that a file has where it is packed: HAL.DLL is HAL.DL_.</summary>
    public static string NameFor(string name) =>
        Path.GetExtension(name) is { Length: > 3 } ? name[..^1] + Mark
        : Path.HasExtension(name) ? name + Mark
        : $"{name}.{Mark}";

    /// <summary>Whether a file's name and its first bytes say that it is packed.</summary>
    public static bool IsOne(string name, ReadOnlySpan<byte> contents) =>
        name.EndsWith(Mark) && (contents.StartsWith(CabinetMark) || contents.StartsWith(OlderMark));

    /// <summary>The file that is packed.</summary>
    /// <param name="name">Its name, for errors.</param>
    /// <param name="contents">What stands on the medium.</param>
    /// <exception cref="UnreadableException">It is damaged, or packed in a way that keel does not know.</exception>
    public static byte[] Unpack(string name, byte[] contents)
    {
        if (contents.AsSpan().StartsWith(OlderMark))
        {
            throw new UnreadableException(
                $"{name} can't be unpacked.",
                "It is packed as media older than Windows 2000 have it.",
                "Name a medium of the Windows that is on the disk.");
        }

        using var reader = ArchiveReader.OfBytes(name, contents);
        while (reader.Next() is { } entry)
        {
            if (!entry.IsFolder) return reader.Read(MostBytes);
        }

        throw new UnreadableException($"{name} can't be unpacked.", "There is no file in it.", "Name another medium.");
    }
}

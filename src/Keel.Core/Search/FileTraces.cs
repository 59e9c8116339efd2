using Keel.Core.Blocks;

namespace Keel.Core.Search;

/// <summary>Looks for anything that may be somebody's on a volume without a file system.</summary>
public static class FileTraces
{
    private const int SectorBytes = 512, ChunkBytes = 1024 * 1024;
    private const long LimitBytes = 4L * 1024 * 1024 * 1024;

    /// <summary>By how files and folders begin; each stands at the start of a sector.</summary>
    private static readonly (string Kind, byte[] Mark)[] Marks =
    [
        ("a program", [.. "MZ"u8]),
        ("a program", [0x7F, .. "ELF"u8]),
        ("a hive", [.. "regf"u8]),
        ("a file record", [.. "FILE"u8]),
        ("a folder", [.. "INDX"u8]),
        ("a folder", [.. ".          "u8]),
        ("an archive", [.. "PK"u8, 3, 4]),
        ("an archive", [.. "7z"u8, 0xBC, 0xAF]),
        ("an archive", [.. "MSCF"u8]),
        ("a document", [.. "%PDF"u8]),
        ("a document", [0xD0, 0xCF, 0x11, 0xE0]),
        ("a picture", [0xFF, 0xD8, 0xFF]),
        ("a picture", [0x89, .. "PNG"u8]),
        ("a database", [.. "SQLite format 3"u8]),
        ("a disk image", [.. "MSWIM"u8])
    ];

    /// <summary>
    /// The first trace; null where there is none. A volume of over 4 GiB is no place that this could tell of: it counts as one.
    /// </summary>
    public static FileTrace? FirstIn(IReadableBlocks volume)
    {
        if (volume.LengthBytes > LimitBytes) return new FileTrace("a large volume", 0);
        for (var at = 0L; at < volume.LengthBytes; at += ChunkBytes)
        {
            var chunk = volume.ReadBytes(at, (int)Math.Min(ChunkBytes, volume.LengthBytes - at));
            for (var within = 0; within + SectorBytes <= chunk.Length; within += SectorBytes)
            {
                var sector = chunk.AsSpan(within, SectorBytes);
                foreach (var (kind, mark) in Marks)
                {
                    if (sector.StartsWith(mark)) return new FileTrace(kind, at + within);
                }
            }
        }

        return null;
    }
}

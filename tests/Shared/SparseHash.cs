using System.IO.Hashing;
using System.Runtime.InteropServices;

namespace Keel.Tests;

/// <summary>What a file holds, as a short text; holes and written zeros are the same, and holes are not read.</summary>
internal static partial class SparseHash
{
    private const int SeekData = 3, SeekHole = 4, PieceBytes = 64 * 1024;

    public static string Of(string path)
    {
        using var file = File.OpenHandle(path);
        var length = RandomAccess.GetLength(file);
        var hash = new XxHash128();
        hash.Append(BitConverter.GetBytes(length));
        var piece = new byte[PieceBytes];
        var descriptor = (int)file.DangerousGetHandle();
        for (var end = 0L; LSeek(descriptor, end, SeekData) is var start and >= 0;)
        {
            end = LSeek(descriptor, start, SeekHole);
            for (var at = start / PieceBytes * PieceBytes; at < end; at += PieceBytes)
            {
                var bytes = piece.AsSpan(0, RandomAccess.Read(file, piece, at));
                if (bytes.IndexOfAnyExcept((byte)0) < 0) continue;
                hash.Append(BitConverter.GetBytes(at));
                hash.Append(bytes);
            }

            end = (end + PieceBytes - 1) / PieceBytes * PieceBytes;
        }

        return Convert.ToHexString(hash.GetCurrentHash());
    }

    [LibraryImport("libc", EntryPoint = "lseek")]
    private static partial long LSeek(int file, long offset, int whence);
}

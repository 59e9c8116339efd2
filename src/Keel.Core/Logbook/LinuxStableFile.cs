using Keel.Core.Disks;
using Microsoft.Win32.SafeHandles;

namespace Keel.Core.Logbook;

/// <summary>A file on this computer that grows at its end; long runs of zeros take no room.</summary>
internal sealed class LinuxStableFile(string path) : IStableFile
{
    private const int PieceBytes = 64 * 1024;
    private readonly SafeFileHandle handle = LinuxNative.CreatePrivate(path);
    private long length;

    public void Append(ReadOnlySpan<byte> bytes)
    {
        var start = length;
        while (bytes.Length > 0)
        {
            var piece = bytes[..Math.Min(PieceBytes, bytes.Length)];
            if (piece.ContainsAnyExcept((byte)0)) RandomAccess.Write(handle, piece, length);
            length += piece.Length;
            bytes = bytes[piece.Length..];
        }

        LinuxNative.BeginWriting(handle, start, length - start);
    }

    public void Flush()
    {
        if (RandomAccess.GetLength(handle) < length) RandomAccess.SetLength(handle, length);
        LinuxNative.Flush(handle, path);
        LinuxNative.ForgetCached(handle);
    }

    public void Dispose() => handle.Dispose();
}

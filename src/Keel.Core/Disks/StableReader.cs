using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;

namespace Keel.Core.Disks;

/// <summary>
/// Reads what stable storage holds of a file or device: past the kernel's page cache, or through an emptied one where that is the
/// only way.
/// </summary>
internal sealed unsafe class StableReader : IDisposable
{
    private const int AlignmentBytes = 4096, PieceBytes = 256 * 1024;
    private readonly string path;
    private readonly byte* piece;
    private SafeFileHandle handle;
    private bool isDirect = true;

    /// <exception cref="IOException">It can't be opened.</exception>
    public StableReader(string path)
    {
        this.path = path;
        if (LinuxNative.KindOf(path) is not (UnixFileKind.Regular or UnixFileKind.BlockDevice))
            throw new IOException($"{path} is no ordinary file");
        handle = LinuxNative.OpenForReading(path, direct: true);
        if (handle.IsInvalid) OpenThroughCache();
        piece = (byte*)NativeMemory.AlignedAlloc(PieceBytes, AlignmentBytes);
    }

    /// <summary>
    /// Fills the buffer from the offset in bytes; what was never written to a file reads as zeros, and is not fetched.
    /// </summary>
    /// <exception cref="IOException">The device reports an error, or the file ends before.</exception>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        if (LinuxNative.IsHole(handle, offsetBytes, buffer.Length))
        {
            buffer.Clear();
            return;
        }

        while (buffer.Length > 0)
        {
            var within = (int)(offsetBytes % AlignmentBytes);
            var wanted = Math.Min(PieceBytes, (within + buffer.Length + AlignmentBytes - 1) / AlignmentBytes * AlignmentBytes);
            var count = Math.Min(ReadPiece(offsetBytes - within, wanted) - within, buffer.Length);
            if (count <= 0) throw new IOException($"{path} ends at byte {offsetBytes}, and should go on");
            new Span<byte>(piece + within, count).CopyTo(buffer);
            buffer = buffer[count..];
            offsetBytes += count;
        }
    }

    public void Dispose()
    {
        handle.Dispose();
        NativeMemory.AlignedFree(piece);
    }

    private int ReadPiece(long start, int length)
    {
        var target = new Span<byte>(piece, length);
        try
        {
            return RandomAccess.Read(handle, target, start);
        }
        catch (IOException) when (isDirect)
        {
            // its file system, or its sector size, may not allow the other way
            OpenThroughCache();
            return RandomAccess.Read(handle, target, start);
        }
    }

    private void OpenThroughCache()
    {
        handle.Dispose();
        isDirect = false;
        handle = LinuxNative.OpenForReading(path);
        if (handle.IsInvalid) throw new IOException($"{path} can't be opened: {LinuxNative.Words(LinuxNative.LastError)}");
        LinuxNative.ForgetCached(handle);
    }
}

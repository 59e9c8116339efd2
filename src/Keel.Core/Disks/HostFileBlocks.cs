using Keel.Core.Blocks;
using Keel.Core.Errors;
using Microsoft.Win32.SafeHandles;

namespace Keel.Core.Disks;

/// <summary>An ordinary file of this system, read as it is asked for.</summary>
public sealed class HostFileBlocks : IReadableBlocks, IDisposable
{
    private readonly string path;
    private readonly SafeFileHandle handle;

    private HostFileBlocks(string path, SafeFileHandle handle)
    {
        this.path = path;
        this.handle = handle;
        LengthBytes = RandomAccess.GetLength(handle);
        Written = new DateTimeOffset(File.GetLastWriteTimeUtc(handle), TimeSpan.Zero);
    }

    /// <inheritdoc/>
    public long LengthBytes { get; }

    /// <inheritdoc/>
    public int SectorBytes => 512;

    /// <summary>When it was last written.</summary>
    public DateTimeOffset Written { get; }

    /// <exception cref="IOException">It is not there, or is no ordinary file.</exception>
    public static HostFileBlocks Open(string path) => new(path, HostFile.Open(path));

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        try
        {
            while (buffer.Length > 0)
            {
                var count = RandomAccess.Read(handle, buffer, offsetBytes);
                if (count == 0) throw new IOException("it has become shorter");
                buffer = buffer[count..];
                offsetBytes += count;
            }
        }
        catch (IOException e)
        {
            throw new UnreadableException(
                $"{path} can't be read.",
                $"The system says: {e.Message}",
                "Name a file of this system.",
                e);
        }
    }

    /// <inheritdoc/>
    public void Dispose() => handle.Dispose();
}

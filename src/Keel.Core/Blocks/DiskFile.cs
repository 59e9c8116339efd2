using Keel.Core.Errors;
using Microsoft.Win32.SafeHandles;

namespace Keel.Core.Blocks;

/// <summary>A disk as the system gives it: a raw image file or a Linux block device.</summary>
/// <remarks>Opened for reading everywhere; for writing only by a commit, which then holds it alone.</remarks>
public sealed class DiskFile : IWritableBlocks, IDisposable
{
    private const int SectorBytesOfImages = 512;
    private readonly SafeFileHandle handle;

    private DiskFile(string path, SafeFileHandle handle, bool isBlockDevice, long lengthBytes, int sectorBytes)
    {
        Path = path;
        this.handle = handle;
        IsBlockDevice = isBlockDevice;
        LengthBytes = lengthBytes;
        SectorBytes = sectorBytes;
    }

    /// <summary>The full path, links resolved.</summary>
    public string Path { get; }

    public bool IsBlockDevice { get; }

    public long LengthBytes { get; }

    public int SectorBytes { get; }

    public BlockCounters Counters { get; } = new();

    /// <summary>Opens a disk or image. Images have 512-byte sectors unless their partition table shows otherwise.</summary>
    /// <param name="sectorBytes">Overrides the sector size of an image; ignored for devices.</param>
    /// <exception cref="UnreadableException">It isn't there, isn't a disk, or can't be opened.</exception>
    public static DiskFile Open(string path, bool forWriting = false, int? sectorBytes = null)
    {
        var full = DiskPath.Resolve(path);
        try
        {
            var opened = File.OpenHandle(
                full,
                FileMode.Open,
                forWriting ? FileAccess.ReadWrite : FileAccess.Read,
                FileShare.ReadWrite,
                FileOptions.RandomAccess);
            return Describe(full, opened, sectorBytes);
        }
        catch (UnauthorizedAccessException e)
        {
            throw new UnreadableException(
                $"{path} can't be {(forWriting ? "written" : "opened")}.",
                "You don't have the permission.",
                "Run keel as root, or give this user access to the file.",
                e);
        }
        catch (IOException e)
        {
            throw new UnreadableException(
                $"{path} can't be opened.",
                $"The system says: {e.Message}",
                forWriting ? "See that no other program uses the disk, and try again." : "Check the cable, the path and the file, and try again.",
                e);
        }
    }

    private static DiskFile Describe(string full, SafeFileHandle opened, int? sectorBytes)
    {
        try
        {
            if (DiskPath.IsBlockDevice(full))
            {
                var (length, sector) = LinuxNative.DescribeBlockDevice(opened);
                return new DiskFile(full, opened, isBlockDevice: true, length, sector);
            }

            return new DiskFile(full, opened, isBlockDevice: false, RandomAccess.GetLength(opened), sectorBytes ?? SectorBytesOfImages);
        }
        catch
        {
            opened.Dispose();
            throw;
        }
    }

    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        Counters.CountRead(buffer.Length);
        var done = 0;
        while (done < buffer.Length)
        {
            var got = Attempt("read", offsetBytes + done, buffer[done..]);
            if (got == 0) throw Failed("read", offsetBytes + done, "the file is shorter than a moment ago", inner: null);
            done += got;
        }
    }

    public void Write(long offsetBytes, ReadOnlySpan<byte> data)
    {
        this.CheckRange(offsetBytes, data.Length);
        Counters.CountWrite(data.Length);
        try
        {
            RandomAccess.Write(handle, data, offsetBytes);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw Failed("written", offsetBytes, e.Message, e);
        }
    }

    public void Flush()
    {
        Counters.CountFlush();
        try
        {
            RandomAccess.FlushToDisk(handle);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw Failed("flushed", 0, e.Message, e);
        }
    }

    /// <summary>Lets the next reads come from the device, not from memory.</summary>
    internal void ForgetCached() => LinuxNative.ForgetCached(handle);

    public void Dispose() => handle.Dispose();

    private int Attempt(string verb, long offsetBytes, Span<byte> buffer)
    {
        try
        {
            return RandomAccess.Read(handle, buffer, offsetBytes);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw Failed(verb, offsetBytes, e.Message, e);
        }
    }

    private UnreadableException Failed(string verb, long offsetBytes, string why, Exception? inner) => new(
        $"{Path} can't be {verb} at byte {offsetBytes} (sector {offsetBytes / SectorBytes}).",
        $"The system says: {why}",
        "The disk may be failing: make an image of it first, and work on the image.",
        inner);
}

using System.Runtime.InteropServices;

namespace Keel.Core.Blocks;

/// <summary>The few kernel calls that .NET has no way to.</summary>
internal static partial class LinuxNative
{
    private const ulong BlockDeviceSize = 0x80081272;       // BLKGETSIZE64
    private const ulong BlockDeviceSectorSize = 0x1268;     // BLKSSZGET
    private const ulong GetFileMarks = 0x80086601;          // FS_IOC_GETFLAGS
    private const ulong SetFileMarks = 0x40086602;          // FS_IOC_SETFLAGS
    private const int OpenReadOnly = 0;
    private const int OpenDirectory = 0x10000;

    [LibraryImport("libc", EntryPoint = "ioctl", SetLastError = true)]
    private static partial int IoctlLong(SafeHandle fd, ulong request, out long value);

    [LibraryImport("libc", EntryPoint = "ioctl", SetLastError = true)]
    private static partial int IoctlInt(SafeHandle fd, ulong request, out int value);

    [LibraryImport("libc", EntryPoint = "ioctl", SetLastError = true)]
    private static partial int IoctlChange(SafeHandle fd, ulong request, ref long value);

    [LibraryImport("libc", EntryPoint = "open", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Open(string path, int flags);

    [LibraryImport("libc", EntryPoint = "fsync", SetLastError = true)]
    private static partial int Fsync(int fd);

    [LibraryImport("libc", EntryPoint = "posix_fadvise")]
    private static partial int Advise(SafeHandle fd, long start, long length, int advice);

    /// <summary>Lets the kernel forget what it has cached of a file, so that the next read asks the device.</summary>
    public static void ForgetCached(SafeHandle file)
    {
        const int dontNeed = 4;
        _ = Advise(file, 0, 0, dontNeed);
    }

    [LibraryImport("libc", EntryPoint = "close")]
    private static partial int Close(int fd);

    [LibraryImport("libc", EntryPoint = "statx", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Statx(int folder, string path, int flags, uint mask, Span<byte> result);

    /// <summary>What stands behind a path, links followed; opens nothing, so that a pipe can't hold the program up.</summary>
    public static UnixFileKind KindOf(string path)
    {
        const int currentFolder = -100, resultBytes = 256, modeAt = 28, typeMask = 0xF000;
        Span<byte> result = stackalloc byte[resultBytes];
        return Statx(currentFolder, path, 0, 1, result) == 0
            ? (UnixFileKind)(BitConverter.ToUInt16(result[modeAt..]) & typeMask)
            : UnixFileKind.Missing;
    }

    /// <summary>Size in bytes and logical sector size in bytes of a block device, from the kernel.</summary>
    public static (long LengthBytes, int SectorBytes) DescribeBlockDevice(SafeHandle device)
    {
        if (IoctlLong(device, BlockDeviceSize, out var length) != 0 || IoctlInt(device, BlockDeviceSectorSize, out var sector) != 0)
            throw new IOException($"the kernel does not tell its size (error {Marshal.GetLastSystemError()})");
        return (length, sector);
    }

    /// <summary>Sets or lifts the mark that keeps a file from being changed. True where it was set before; false also where the file system has no such mark.</summary>
    public static bool SetImmutable(string path, bool immutable)
    {
        const long mark = 0x10;                                 // FS_IMMUTABLE_FL
        using var file = File.OpenHandle(path);
        if (IoctlLong(file, GetFileMarks, out var marks) != 0) return false;
        var was = (marks & mark) != 0;
        marks = immutable ? marks | mark : marks & ~mark;
        if (was != immutable) _ = IoctlChange(file, SetFileMarks, ref marks);
        return was;
    }

    /// <summary>Makes a folder's entries durable (a new or renamed file in it).</summary>
    public static void FlushFolder(string path)
    {
        var fd = Open(path, OpenReadOnly | OpenDirectory);
        if (fd < 0) throw new IOException($"{path} can't be opened (error {Marshal.GetLastSystemError()})");
        try
        {
            if (Fsync(fd) != 0) throw new IOException($"{path} can't be flushed (error {Marshal.GetLastSystemError()})");
        }
        finally
        {
            _ = Close(fd);
        }
    }
}

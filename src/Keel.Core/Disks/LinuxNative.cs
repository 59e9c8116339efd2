using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;

namespace Keel.Core.Disks;

/// <summary>The few kernel calls that .NET has no way to, or whose answers it swallows.</summary>
internal static partial class LinuxNative
{
    /// <summary>Error numbers of Linux (errno.h) that keel tells apart.</summary>
    public const int NotPermitted = 1, NoSuchFile = 2, IoError = 5, TryAgain = 11, AccessDenied = 13, Busy = 16, Exists = 17,
        InvalidArgument = 22, NoSpace = 28, ReadOnlyFileSystem = 30, NoLocks = 37, NotImplemented = 38, NoData = 61,
        NotSupported = 95;

    private const ulong BlockDeviceSize = 0x80081272;       // BLKGETSIZE64
    private const ulong BlockDeviceSectorSize = 0x1268;     // BLKSSZGET
    private const ulong BlockDeviceReadOnly = 0x125E;       // BLKROGET
    private const ulong LoopStatus = 0x4C05;                // LOOP_GET_STATUS64
    private const ulong GetFileMarks = 0x80086601;          // FS_IOC_GETFLAGS
    private const ulong SetFileMarks = 0x40086602;          // FS_IOC_SETFLAGS
    private const int OpenReadOnly = 0, OpenReadWrite = 2, OpenCreate = 0x40, OpenExclusive = 0x80, OpenTruncate = 0x200;
    private const int OpenCloseOnExec = 0x80000, OpenWithoutWaiting = 0x800, OpenWriteOnly = 1;
    private const int CurrentFolder = -100;
    private const int ToNextData = 3;                           // SEEK_DATA
    private const int NoneLeft = 6;                             // ENXIO
    private const int FromEnd = 2;                              // SEEK_END

    // These two differ between processors (fcntl.h).
    private static readonly bool IsArm = RuntimeInformation.ProcessArchitecture is Architecture.Arm64 or Architecture.Arm;
    private static readonly int OpenDirectory = IsArm ? 0x4000 : 0x10000;
    private static readonly int OpenDirect = IsArm ? 0x10000 : 0x4000;
    private static readonly int OpenNoLink = IsArm ? 0x8000 : 0x20000;

    [LibraryImport("libc", EntryPoint = "ioctl", SetLastError = true)]
    private static partial int IoctlLong(SafeHandle fd, ulong request, out long value);

    [LibraryImport("libc", EntryPoint = "ioctl", SetLastError = true)]
    private static partial int IoctlInt(SafeHandle fd, ulong request, out int value);

    [LibraryImport("libc", EntryPoint = "ioctl", SetLastError = true)]
    private static partial int IoctlChange(SafeHandle fd, ulong request, ref long value);

    [LibraryImport("libc", EntryPoint = "ioctl", SetLastError = true)]
    private static partial int IoctlBytes(SafeHandle fd, ulong request, Span<byte> result);

    [LibraryImport("libc", EntryPoint = "open", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Open(string path, int flags, uint mode);

    [LibraryImport("libc", EntryPoint = "fsync", SetLastError = true)]
    private static partial int Fsync(SafeHandle fd);

    [LibraryImport("libc", EntryPoint = "posix_fadvise")]
    private static partial int Advise(SafeHandle fd, long start, long length, int advice);

    [LibraryImport("libc", EntryPoint = "sync_file_range")]
    private static partial int SyncRange(SafeHandle fd, long start, long length, uint flags);

    [LibraryImport("libc", EntryPoint = "fallocate", SetLastError = true)]
    private static partial int Allocate(SafeHandle fd, int mode, long start, long length);

    [LibraryImport("libc", EntryPoint = "lseek", SetLastError = true)]
    private static partial long Seek(SafeHandle fd, long offset, int from);

    [LibraryImport("libc", EntryPoint = "flock", SetLastError = true)]
    private static partial int Flock(SafeHandle fd, int operation);

    [LibraryImport("libc", EntryPoint = "fcntl", SetLastError = true)]
    private static partial int FcntlLock(SafeHandle fd, int command, ref FileLock what);

    [LibraryImport("libc", EntryPoint = "access", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Access(string path, int mode);

    [LibraryImport("libc", EntryPoint = "mkdir", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int MakeFolder(string path, uint mode);

    [LibraryImport("libc", EntryPoint = "rename", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int RenameFile(string from, string to);

    [LibraryImport("libc", EntryPoint = "statx", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Statx(int folder, string path, int flags, uint mask, Span<byte> result);

    [LibraryImport("libc", EntryPoint = "realpath", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial nint RealPath(string path, nint memory);

    [LibraryImport("libc", EntryPoint = "free")]
    private static partial void Free(nint memory);

    [LibraryImport("libc", EntryPoint = "statx", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Statx(SafeHandle file, string path, int flags, uint mask, Span<byte> result);

    [LibraryImport("libc", EntryPoint = "fchmod", SetLastError = true)]
    private static partial int ChangeMode(SafeHandle file, uint mode);

    [LibraryImport("libc", EntryPoint = "fcntl")]
    private static partial int FcntlNumber(int fd, int command);

    [LibraryImport("libc", EntryPoint = "tcflush")]
    private static partial int FlushTerminal(int fd, int what);

    [LibraryImport("libc", EntryPoint = "dup2")]
    private static partial int Duplicate(int from, int to);

    [LibraryImport("libc", EntryPoint = "execv", StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Execute(string program, ReadOnlySpan<nint> arguments);

    /// <summary>
    /// Whether a number stands for something that this process was started with: what it has opened itself ends with the next
    /// program.
    /// </summary>
    public static bool WasGiven(int number)
    {
        const int getFlags = 1, closeOnExec = 1;                // F_GETFD, FD_CLOEXEC
        var flags = FcntlNumber(number, getFlags);
        return flags >= 0 && (flags & closeOnExec) == 0;
    }

    /// <summary>
    /// Starts this program again in its own place, with what takes everything and gives nothing under these numbers. Comes back
    /// only where that can't be done.
    /// </summary>
    public static void BeginAgainWithNothing(IEnumerable<int> numbers)
    {
        var words = File.ReadAllBytes("/proc/self/cmdline");
        var pinned = GCHandle.Alloc(words, GCHandleType.Pinned);
        var arguments = new List<nint>();
        for (var at = 0; at < words.Length; at = Array.IndexOf(words, (byte)0, at) + 1)
            arguments.Add(pinned.AddrOfPinnedObject() + at);
        arguments.Add(0);
        var nothing = Open("/dev/null", OpenReadWrite, 0);
        foreach (var number in numbers)
        {
            if (number != nothing) _ = Duplicate(nothing, number);
        }

        _ = Execute("/proc/self/exe", arguments.ToArray());
        pinned.Free();
    }

    /// <summary>Has the terminal forget what was typed and not yet read.</summary>
    public static void DropTyped()
    {
        const int whatCame = 0;                                 // TCIFLUSH
        _ = FlushTerminal(0, whatCame);
    }

    /// <summary>
    /// A path with every link in it followed, "." and ".." gone, as the kernel does it; null where it leads nowhere.
    /// </summary>
    public static string? FullPath(string path)
    {
        var memory = RealPath(path, 0);
        if (memory == 0) return null;
        var full = Marshal.PtrToStringUTF8(memory);
        Free(memory);
        return full;
    }

    /// <summary>Opens a file for reading without waiting for anybody, as a pipe would.</summary>
    /// <param name="path">Its path.</param>
    /// <param name="followLink">Whether its last part may be a link.</param>
    public static SafeFileHandle OpenAtOnce(string path, bool followLink) =>
        new(Open(path, OpenReadOnly | OpenCloseOnExec | OpenWithoutWaiting | (followLink ? 0 : OpenNoLink), 0), ownsHandle: true);

    /// <summary>Empties a file, or creates it, for writing; never through a link.</summary>
    /// <exception cref="IOException">The kernel refuses.</exception>
    public static SafeFileHandle OpenEmptied(string path)
    {
        const uint asVariables = 0x1A4;                         // 0644
        var how = OpenWriteOnly | OpenCloseOnExec | OpenCreate | OpenTruncate | OpenNoLink | OpenWithoutWaiting;
        var handle = new SafeFileHandle(Open(path, how, asVariables), ownsHandle: true);
        return !handle.IsInvalid ? handle : throw Failed($"{path} can't be written");
    }

    /// <summary>What the kernel tells of an open file; null where it tells nothing.</summary>
    public static UnixFileStatus? StatOf(SafeHandle file)
    {
        const uint basicAndBirth = 0xFFF;
        const int itself = 0x1000;                              // AT_EMPTY_PATH
        Span<byte> result = stackalloc byte[UnixFileStatus.RecordBytes];
        return Statx(file, "", itself, basicAndBirth, result) == 0 ? UnixFileStatus.Read(result) : null;
    }

    /// <summary>Gives a file the permissions that another one has; where its file system has none, nothing happens.</summary>
    public static void SetPermissions(SafeHandle file, uint mode) => _ = ChangeMode(file, mode);

    /// <summary>Opens a file for reading, past the page cache where that is asked for.</summary>
    /// <returns>An invalid handle where the kernel refuses; <see cref="LastError"/> says why.</returns>
    public static SafeFileHandle OpenForReading(string path, bool direct = false) =>
        new(Open(path, OpenReadOnly | OpenCloseOnExec | (direct ? OpenDirect : 0), 0), ownsHandle: true);

    /// <summary>Opens a file or device for writing.</summary>
    /// <param name="path">Its path.</param>
    /// <param name="exclusive">For a block device: only where nothing else has claimed it or a part of it.</param>
    /// <returns>An invalid handle where the kernel refuses; <see cref="LastError"/> says why.</returns>
    public static SafeFileHandle OpenForWriting(string path, bool exclusive) =>
        new(Open(path, OpenReadWrite | OpenCloseOnExec | (exclusive ? OpenExclusive : 0), 0), ownsHandle: true);

    /// <summary>Opens a block device for looking, and only where nothing has claimed it.</summary>
    public static SafeFileHandle OpenUnclaimed(string path) =>
        new(Open(path, OpenReadOnly | OpenCloseOnExec | OpenExclusive, 0), ownsHandle: true);

    /// <summary>
    /// Creates a file that only its owner may read and write; never in the place of another, or through a link.
    /// </summary>
    /// <exception cref="IOException">Something of that name is there, or the kernel refuses.</exception>
    public static SafeFileHandle CreatePrivate(string path)
    {
        const uint ownerOnly = 0x180;                           // 0600
        var handle = new SafeFileHandle(
            Open(path, OpenReadWrite | OpenCloseOnExec | OpenCreate | OpenExclusive | OpenNoLink, ownerOnly),
            ownsHandle: true);
        return !handle.IsInvalid ? handle : throw Failed($"{path} can't be created");
    }

    /// <summary>Creates a folder that only its owner may look into. False where it is there already.</summary>
    /// <exception cref="IOException">The kernel refuses.</exception>
    public static bool CreatePrivateFolder(string path)
    {
        const uint ownerOnly = 0x1C0;                           // 0700
        if (MakeFolder(path, ownerOnly) == 0) return true;
        return LastError == Exists ? false : throw Failed($"the folder {path} can't be created");
    }

    /// <summary>Gives a file another name, in one step; what had that name is gone.</summary>
    /// <exception cref="IOException">The kernel refuses.</exception>
    public static void Rename(string from, string to)
    {
        if (RenameFile(from, to) != 0) throw Failed($"{from} can't be renamed");
    }

    /// <summary>The error number of the last call.</summary>
    public static int LastError => Marshal.GetLastPInvokeError();

    /// <summary>What an error number means, in the system's words.</summary>
    public static string Words(int error) => Marshal.GetPInvokeErrorMessage(error);

    /// <summary>Returns when everything written to a file has reached stable storage.</summary>
    /// <remarks>.NET's own calls for this swallow the kernel's answer; a full disk would go unnoticed.</remarks>
    /// <exception cref="IOException">It has not.</exception>
    public static void Flush(SafeHandle file, string path)
    {
        if (Fsync(file) != 0) throw Failed($"{path} can't be flushed");
    }

    /// <summary>The same, where its file system knows how to: that of the firmware's variables writes at once.</summary>
    /// <exception cref="IOException">It has not.</exception>
    public static void FlushWhereItCan(SafeHandle file, string path)
    {
        if (Fsync(file) != 0 && LastError != InvalidArgument) throw Failed($"{path} can't be flushed");
    }

    /// <summary>Why a file or folder can't be written by this user; null where it can.</summary>
    public static int? WhyNotWritable(string path)
    {
        const int toWrite = 2;                                  // W_OK
        return Access(path, toWrite) == 0 ? null : LastError;
    }

    /// <summary>Holds a folder against other keels; null where one holds it.</summary>
    public static SafeFileHandle? HoldFolder(string path)
    {
        const int exclusiveAtOnce = 2 | 4;                      // LOCK_EX | LOCK_NB
        var folder = new SafeFileHandle(Open(path, OpenReadOnly | OpenDirectory | OpenCloseOnExec, 0), ownsHandle: true);
        if (folder.IsInvalid) throw Failed($"{path} can't be opened");
        if (Soon(() => Flock(folder, exclusiveAtOnce) == 0 || HasNoLocks(LastError))) return folder;
        folder.Dispose();
        return null;
    }

    /// <summary>Makes a folder's entries durable (a new or renamed file in it).</summary>
    /// <exception cref="IOException">They may not be.</exception>
    public static void FlushFolder(string path)
    {
        using var folder = new SafeFileHandle(Open(path, OpenReadOnly | OpenDirectory | OpenCloseOnExec, 0), ownsHandle: true);
        if (folder.IsInvalid) throw Failed($"{path} can't be opened");
        Flush(folder, path);
    }

    /// <summary>
    /// Lets the kernel begin to write a range out, so that the flush that follows has less to wait for; a hint, and no more.
    /// </summary>
    public static void BeginWriting(SafeHandle file, long start, long length)
    {
        const uint begin = 2;                                   // SYNC_FILE_RANGE_WRITE
        _ = SyncRange(file, start, length, begin);
    }

    /// <summary>
    /// Has a file's range stand on room of its own, so that writing to it can't fail for want of it. False where there is none
    /// left; true too where the file system has no way to promise it.
    /// </summary>
    public static bool HasRoom(SafeHandle file, long start, long length)
    {
        const int keepSize = 1;                                 // FALLOC_FL_KEEP_SIZE
        return Allocate(file, keepSize, start, length) == 0 || LastError != NoSpace;
    }

    /// <summary>Lets the kernel forget what it has cached of a file, so that the next read asks the device.</summary>
    public static void ForgetCached(SafeHandle file)
    {
        const int dontNeed = 4;
        _ = Advise(file, 0, 0, dontNeed);
    }

    /// <summary>
    /// Whether a range of a file was never written, so that it reads as zeros; false where the file system does not tell.
    /// </summary>
    public static bool IsHole(SafeHandle file, long start, long length)
    {
        var data = Seek(file, start, ToNextData);
        if (data >= 0) return data >= start + length;
        return LastError == NoneLeft && Seek(file, 0, FromEnd) >= start + length;
    }

    /// <summary>
    /// The next place that is no hole of a file; null where only a hole is left. The place itself where the system can't tell.
    /// </summary>
    public static long? NextData(SafeHandle file, long start)
    {
        var data = Seek(file, start, ToNextData);
        return data >= 0 ? data : LastError == NoneLeft ? null : start;
    }

    /// <summary>
    /// Locks a whole file against other programs, in both ways that Linux has. False where another one holds it.
    /// </summary>
    public static bool LockSoon(SafeHandle file) => Soon(() => Lock(file));

    /// <summary>
    /// Locks a file by the one way of Linux that does not get into the way of the other, by which a helper locks it. False where
    /// another program holds it.
    /// </summary>
    /// <param name="file">The file.</param>
    /// <param name="alone">Against all others; else only against those who write.</param>
    public static bool HoldSoonBeside(SafeHandle file, bool alone)
    {
        const int shared = 1, exclusive = 2, atOnce = 4;        // LOCK_SH, LOCK_EX, LOCK_NB
        return Soon(() => Flock(file, (alone ? exclusive : shared) | atOnce) == 0 || HasNoLocks(LastError));
    }

    /// <summary>
    /// With a little patience: a program that has just been started may hold a copy of a handle for a moment, and its lock.
    /// </summary>
    private static bool Soon(Func<bool> isLocked)
    {
        const int tries = 10, pauseMilliseconds = 20;
        for (var number = 1; !isLocked(); number++)
        {
            if (number == tries) return false;
            Thread.Sleep(pauseMilliseconds);
        }

        return true;
    }

    private static bool Lock(SafeHandle file)
    {
        const int exclusiveAtOnce = 2 | 4;                      // LOCK_EX | LOCK_NB
        const int setOpenFileLock = 37;                         // F_OFD_SETLK
        if (Flock(file, exclusiveAtOnce) != 0 && !HasNoLocks(LastError)) return false;
        var all = new FileLock { Type = FileLock.Write };
        return FcntlLock(file, setOpenFileLock, ref all) == 0 || HasNoLocks(LastError) || LastError == InvalidArgument;
    }

    /// <summary>
    /// Gives the locks of a file up at once: closing it is not enough while a program that is just being started holds a copy of
    /// the handle.
    /// </summary>
    public static void Unlock(SafeHandle file)
    {
        const int unlock = 8;                                   // LOCK_UN
        const int setOpenFileLock = 37;                         // F_OFD_SETLK
        _ = Flock(file, unlock);
        var all = new FileLock { Type = FileLock.None };
        _ = FcntlLock(file, setOpenFileLock, ref all);
    }

    /// <summary>What stands behind a path, links followed; opens nothing, so that a pipe can't hold the program up.</summary>
    public static UnixFileKind KindOf(string path) => StatOf(path)?.Kind ?? UnixFileKind.Missing;

    /// <summary>What the kernel tells of a path, links followed; null where it tells nothing.</summary>
    public static UnixFileStatus? StatOf(string path)
    {
        const uint basicAndBirth = 0xFFF;
        Span<byte> result = stackalloc byte[UnixFileStatus.RecordBytes];
        return Statx(CurrentFolder, path, 0, basicAndBirth, result) == 0 ? UnixFileStatus.Read(result) : null;
    }

    /// <summary>Size in bytes and logical sector size in bytes of a block device, from the kernel.</summary>
    public static (long LengthBytes, int SectorBytes) DescribeBlockDevice(SafeHandle device)
    {
        if (IoctlLong(device, BlockDeviceSize, out var length) != 0
            || IoctlInt(device, BlockDeviceSectorSize, out var sector) != 0)
        {
            throw Failed("the kernel does not tell its size");
        }

        return (length, sector);
    }

    /// <summary>Whether the kernel lets nobody write to a block device.</summary>
    public static bool IsReadOnlyDevice(SafeHandle device) =>
        IoctlInt(device, BlockDeviceReadOnly, out var mark) == 0 && mark != 0;

    /// <summary>The file behind a loop device; null where the device is none, or has none.</summary>
    public static FileId? LoopBacking(SafeHandle device)
    {
        const int recordBytes = 232, deviceAt = 0, inodeAt = 8; // struct loop_info64 (linux/loop.h)
        Span<byte> record = stackalloc byte[recordBytes];
        if (IoctlBytes(device, LoopStatus, record) != 0) return null;
        var number = BitConverter.ToUInt64(record[deviceAt..]);
        return new FileId(
            (uint)((number >> 8) & 0xFFF),
            (uint)((number & 0xFF) | ((number >> 12) & 0xFFFFFF00)),
            BitConverter.ToUInt64(record[inodeAt..]));
    }

    /// <summary>
    /// Whether a file carries the mark that keeps it from being changed; null where its file system has no such mark.
    /// </summary>
    public static bool? IsImmutable(string path)
    {
        using var file = OpenForReading(path);
        return !file.IsInvalid && IoctlLong(file, GetFileMarks, out var marks) == 0 ? (marks & ImmutableMark) != 0 : null;
    }

    /// <summary>Sets or lifts the mark that keeps a file from being changed. True where it now is as asked.</summary>
    public static bool SetImmutable(string path, bool immutable)
    {
        using var file = OpenForReading(path);
        if (file.IsInvalid || IoctlLong(file, GetFileMarks, out var marks) != 0) return false;
        if (((marks & ImmutableMark) != 0) == immutable) return true;
        marks = immutable ? marks | ImmutableMark : marks & ~ImmutableMark;
        return IoctlChange(file, SetFileMarks, ref marks) == 0;
    }

    private const long ImmutableMark = 0x10;                    // FS_IMMUTABLE_FL

    /// <summary>Some file systems, of networks above all, have no locks at all.</summary>
    private static bool HasNoLocks(int error) => error is NoLocks or NotImplemented or NotSupported;

    private static IOException Failed(string what) => new($"{what}: {Words(LastError)}");

    /// <summary>struct flock (fcntl.h); a length of zero means to the end of the file.</summary>
    [StructLayout(LayoutKind.Sequential)]
    private struct FileLock
    {
        public const short Write = 1, None = 2;                 // F_WRLCK, F_UNLCK
        public short Type;
        public short Whence;
        public long Start;
        public long Length;
        public int Process;
    }
}

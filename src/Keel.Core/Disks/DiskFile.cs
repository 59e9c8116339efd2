using Keel.Core.Blocks;
using Keel.Core.Errors;
using Microsoft.Win32.SafeHandles;

namespace Keel.Core.Disks;

/// <summary>A disk as the system gives it: a raw image file or a Linux block device.</summary>
/// <remarks>Opened for reading everywhere; for writing only by a commit, which then holds it alone.</remarks>
public sealed class DiskFile : IDisk, IBackingFile
{
    private const int SectorBytesOfImages = 512, LargeBytes = 64 * 1024;
    private readonly SafeFileHandle handle;
    private readonly ReadErrors known = new();
    private SectorReader? sectors;
    private StableReader? stable;

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

    /// <inheritdoc/>
    public DiskForm Form => IsBlockDevice ? DiskForm.Device : DiskForm.Raw;

    /// <summary>Whether it is a block device, and no file.</summary>
    public bool IsBlockDevice { get; }

    /// <inheritdoc/>
    public long LengthBytes { get; private set; }

    /// <inheritdoc/>
    public int SectorBytes { get; }

    /// <inheritdoc/>
    public BlockCounters Counters { get; } = new();

    /// <inheritdoc/>
    public DiskTraits Traits => IsBlockDevice
        ? DiskTraits.OfDevice(DiskPath.FolderOf(Path) ?? "", LoopDevices.BackingOf(Path))
        : LinuxNative.StatOf(Path) is { } status ? DiskTraits.OfFile(status) : DiskTraits.None;

    /// <summary>Opens a disk or image for looking.</summary>
    /// <param name="path">Its path.</param>
    /// <param name="sectorBytes">Overrides the sector size of an image, which is otherwise 512; ignored for devices.</param>
    /// <exception cref="UnreadableException">It isn't there, isn't a disk, or can't be opened.</exception>
    public static DiskFile Open(string path, int? sectorBytes = null)
    {
        var full = DiskPath.Resolve(path);
        var opened = LinuxNative.OpenForReading(full);
        return opened.IsInvalid ? throw CantOpen(path, "opened", LinuxNative.LastError) : Describe(full, opened, sectorBytes);
    }

    /// <summary>Opens a disk or image for writing, and holds it alone until it is disposed of.</summary>
    /// <exception cref="RefusedException">It is in use, held by another program, or read-only; says by whom.</exception>
    /// <exception cref="UnreadableException">It can't be opened.</exception>
    public static DiskFile OpenForWriting(string path) => OpenForWriting(path, sectorBytes: null);

    internal static DiskFile OpenForWriting(string path, int? sectorBytes)
    {
        var full = DiskPath.Resolve(path);
        DiskUse.RefuseIfInUse(full);
        var isDevice = DiskPath.IsBlockDevice(full);
        var opened = LinuxNative.OpenForWriting(full, exclusive: isDevice);
        if (opened.IsInvalid)
        {
            throw LinuxNative.LastError == LinuxNative.Busy
                ? DiskUse.HeldByAnother(full)
                : CantOpen(path, "written", LinuxNative.LastError);
        }

        try
        {
            if (isDevice && LinuxNative.IsReadOnlyDevice(opened)) throw ReadOnly(full);
            if (!isDevice && !LinuxNative.LockSoon(opened)) throw DiskUse.HeldByAnother(full);
            return Describe(full, opened, sectorBytes);
        }
        catch
        {
            opened.Dispose();
            throw;
        }
    }

    /// <summary>Holds it against others who write, as long as it is open: what lies over it is being written.</summary>
    /// <exception cref="RefusedException">It is in use, or held by another program.</exception>
    internal void HoldForReading()
    {
        DiskUse.RefuseIfInUse(Path);
        if (!LinuxNative.HoldSoonBeside(handle, alone: false)) throw DiskUse.HeldByAnother(Path);
    }

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        Counters.CountRead(buffer.Length);
        if (!IsBlockDevice && LinuxNative.IsHole(handle, offsetBytes, buffer.Length))
        {
            buffer.Clear();
            return;
        }

        try
        {
            var done = 0;
            while (done < buffer.Length)
            {
                var got = RandomAccess.Read(handle, buffer[done..], offsetBytes + done);
                if (got == 0) throw Failed("read", offsetBytes + done, "the file is shorter than a moment ago", inner: null);
                done += got;
            }
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            ReadSectorBySector(offsetBytes, buffer, e);
        }
    }

    /// <summary>
    /// The first place from the given one on, in bytes, that may hold anything but zeros: an image's holes need no reading.
    /// </summary>
    public long NextData(long offsetBytes) =>
        IsBlockDevice ? offsetBytes : LinuxNative.NextData(handle, offsetBytes) ?? LengthBytes;

    /// <inheritdoc/>
    public void Write(long offsetBytes, ReadOnlySpan<byte> data)
    {
        this.CheckRange(offsetBytes, data.Length);
        Counters.CountWrite(data.Length);
        try
        {
            RandomAccess.Write(handle, data, offsetBytes);
            if (data.Length >= LargeBytes) LinuxNative.BeginWriting(handle, offsetBytes, data.Length);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw Failed("written", offsetBytes, e.Message, e);
        }
    }

    /// <inheritdoc/>
    public void ReadBack(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        Counters.CountRead(buffer.Length);
        try
        {
            stable ??= new StableReader(Path);
            stable.Read(offsetBytes, buffer);
        }
        catch (IOException e)
        {
            throw Failed("read back", offsetBytes, e.Message, e);
        }
    }

    /// <inheritdoc/>
    public void Flush()
    {
        Counters.CountFlush();
        try
        {
            LinuxNative.Flush(handle, Path);
        }
        catch (IOException e)
        {
            throw Failed("flushed", 0, e.Message, e);
        }
    }

    /// <inheritdoc/>
    public void Grow(long lengthBytes)
    {
        if (lengthBytes <= LengthBytes) return;
        try
        {
            RandomAccess.SetLength(handle, lengthBytes);
            LengthBytes = lengthBytes;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw Failed("made longer", LengthBytes, e.Message, e);
        }
    }

    /// <summary>Has the file system keep room for what is going to be written into holes of an image.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    internal void KeepRoom(ByteRange range)
    {
        if (IsBlockDevice || LinuxNative.HasRoom(handle, range.Start, range.Length)) return;
        throw new RefusedException(
            $"{Path} can't be written, and nothing was.",
            "The file system that it lies on is full, and what is to be written needs room there: the image has holes.",
            "Make room, and run the same command again.");
    }

    /// <inheritdoc/>
    public void ForgetCached() => LinuxNative.ForgetCached(handle);

    /// <inheritdoc/>
    public void Dispose()
    {
        sectors?.Dispose();
        stable?.Dispose();
        if (!IsBlockDevice && !handle.IsClosed) LinuxNative.Unlock(handle);
        handle.Dispose();
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

            return new DiskFile(
                full,
                opened,
                isBlockDevice: false,
                RandomAccess.GetLength(opened),
                sectorBytes ?? SectorBytesOfImages);
        }
        catch (IOException e)
        {
            opened.Dispose();
            throw new UnreadableException(
                $"{full} can't be opened.",
                $"The system says: {e.Message}",
                "See whether another program has the disk for itself; else check its cable, and try again.",
                e);
        }
    }

    /// <summary>
    /// The kernel fails whole pages and more; the sectors that can be read are read one by one, past its cache.
    /// </summary>
    private void ReadSectorBySector(long offsetBytes, Span<byte> buffer, Exception first)
    {
        sectors ??= new SectorReader(Path, LengthBytes, SectorBytes);
        var failed = new List<long>();
        for (var sector = offsetBytes / SectorBytes; sector * SectorBytes < offsetBytes + buffer.Length; sector++)
        {
            var bytes = known.Contains(sector) ? null : sectors.TryRead(sector);
            if (bytes is null)
            {
                failed.Add(sector);
                continue;
            }

            var from = Math.Max(sector * SectorBytes, offsetBytes);
            var to = Math.Min((sector * SectorBytes) + bytes.Length, offsetBytes + buffer.Length);
            if (to > from)
                bytes.AsSpan((int)(from - (sector * SectorBytes)), (int)(to - from)).CopyTo(buffer[(int)(from - offsetBytes)..]);
        }

        if (failed.Count == 0) return;
        known.Add(failed);
        var places = failed.Count == 1 ? $"sector {failed[0]}" : $"sectors {failed[0]} to {failed[^1]}, {failed.Count} of them";
        throw new ReadFailedException(
            $"{Path} can't be read at {places}.",
            $"The system says: {first.Message}",
            "The disk may be failing: make an image of it first, and work on the image.",
            failed,
            inner: first);
    }

    private UnreadableException Failed(string verb, long offsetBytes, string why, Exception? inner) => new(
        $"{Path} can't be {verb} at byte {offsetBytes} (sector {offsetBytes / SectorBytes}).",
        $"The system says: {why}",
        "The disk may be failing: make an image of it first, and work on the image.",
        inner);

    private static RefusedException ReadOnly(string full) => new(
        $"{full} is read-only, and nothing was written.",
        "The kernel lets nobody write to this device: a lock switch, a write blocker, or a setting.",
        $"Take the lock off (blockdev --setrw {full}) if it is meant to be written, and run the same command again.");

    private static KeelException CantOpen(string path, string verb, int error) => error switch
    {
        LinuxNative.AccessDenied or LinuxNative.NotPermitted when Environment.IsPrivilegedProcess => new UnreadableException(
            $"{path} can't be {verb}.",
            "Not even root may: a container keeps the device out of reach, or the file is protected from changes.",
            "Run keel outside of the container; for a file, see what 'lsattr' says of it."),
        LinuxNative.AccessDenied or LinuxNative.NotPermitted => new UnreadableException(
            $"{path} can't be {verb}.",
            "You don't have the permission, or it is protected from changes.",
            "Run keel as root, or give this user access to the file."),
        LinuxNative.ReadOnlyFileSystem => new RefusedException(
            $"{path} is read-only, and nothing was written.",
            "The file system that holds it is mounted read-only.",
            "Copy the image to a place that can be written, or remount it for writing."),
        _ => new UnreadableException(
            $"{path} can't be {verb}.",
            $"The system says: {LinuxNative.Words(error)}.",
            verb == "written"
                ? "See that no other program uses the disk, and try again."
                : "See whether another program has it for itself; else check the path and the disk that it is on.")
    };
}

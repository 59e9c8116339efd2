using Microsoft.Win32.SafeHandles;

namespace Keel.Core.Disks;

/// <summary>
/// Ordinary files of the running system, read and written with the care that the names in them, and beside them, may come from
/// anybody: nothing waits on a pipe, grows with a device, goes through a link that was not named, or takes the place of something
/// that was not meant.
/// </summary>
public static class HostFile
{
    /// <summary>Reads a whole file.</summary>
    /// <param name="path">Its path.</param>
    /// <param name="mostBytes">How long it may be, in bytes.</param>
    /// <param name="followLink">Whether its last part may be a link: what a person named may, what was found in a folder may
    ///     not.</param>
    /// <exception cref="IOException">It is not there, is no ordinary file, or is longer.</exception>
    public static byte[] Read(string path, long mostBytes, bool followLink = true)
    {
        // Nothing is asked of its length, and nothing sought in it: the files of the firmware's variables can do neither.
        using var file = new FileStream(Open(path, followLink), FileAccess.Read, bufferSize: 0);
        using var bytes = new MemoryStream();
        var piece = new byte[PieceBytes];
        for (int count; (count = file.Read(piece)) > 0;)
        {
            if (bytes.Length + count > mostBytes) throw new IOException($"it has more than {mostBytes} bytes");
            bytes.Write(piece, 0, count);
        }

        return bytes.ToArray();
    }

    /// <summary>The same; null where nothing of that name is there.</summary>
    /// <exception cref="IOException">It is no ordinary file, or is longer.</exception>
    public static byte[]? ReadIfThere(string path, long mostBytes, bool followLink = true)
    {
        try
        {
            return Read(path, mostBytes, followLink);
        }
        catch (FileNotFoundException)
        {
            return null;
        }
    }

    /// <summary>Opens an ordinary file for reading.</summary>
    /// <exception cref="IOException">It is not there, or is no ordinary file.</exception>
    public static SafeFileHandle Open(string path, bool followLink = true)
    {
        const int tooManyLinks = 40;                            // ELOOP: its last part is a link
        var file = LinuxNative.OpenAtOnce(path, followLink);
        if (file.IsInvalid)
        {
            var error = LinuxNative.LastError;
            throw error == LinuxNative.NoSuchFile
                ? new FileNotFoundException($"{path} is not there")
                : new IOException(error == tooManyLinks && !followLink ? "it is a link" : LinuxNative.Words(error));
        }

        if (LinuxNative.StatOf(file)?.Kind == UnixFileKind.Regular) return file;
        file.Dispose();
        throw new IOException("it is no ordinary file");
    }

    /// <summary>Creates a file that only its owner may read.</summary>
    /// <exception cref="IOException">Something of that name is there, be it a link that leads nowhere.</exception>
    public static FileStream CreateNew(string path) => new(LinuxNative.CreatePrivate(path), FileAccess.ReadWrite, bufferSize: 0);

    /// <summary>
    /// Writes a file in one step: it is there whole, or as it was. One that is replaced keeps its permissions; a new one is its
    /// owner's alone.
    /// </summary>
    /// <param name="path">Its path; where its last part is a link, the file that it leads to is meant.</param>
    /// <param name="bytes">What it is to hold.</param>
    /// <exception cref="IOException">It can't be written; nothing changed.</exception>
    public static void Write(string path, ReadOnlySpan<byte> bytes)
    {
        var target = LinuxNative.FullPath(path) ?? Path.GetFullPath(path);
        var there = LinuxNative.StatOf(target);
        if (there is { Kind: not UnixFileKind.Regular }) throw new IOException("there is something else than an ordinary file");
        var fresh = FreshBeside(target);
        try
        {
            using (var file = CreateNew(fresh))
            {
                if (there is not null) LinuxNative.SetPermissions(file.SafeFileHandle, there.Permissions);
                file.Write(bytes);
                LinuxNative.Flush(file.SafeFileHandle, fresh);
            }

            LinuxNative.Rename(fresh, target);
        }
        catch
        {
            File.Delete(fresh);
            throw;
        }

        LinuxNative.FlushFolder(Path.GetDirectoryName(target)!);
    }

    /// <summary>A name beside a file that nobody can have foreseen.</summary>
    internal static string FreshBeside(string path) => $"{path}.{Guid.NewGuid():N}";

    private const int PieceBytes = 64 * 1024;
}

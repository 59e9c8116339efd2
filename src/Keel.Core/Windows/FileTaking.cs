using System.Text;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>Copies files and folders of a volume into the running system; what is there is never replaced.</summary>
/// <param name="files">The volume.</param>
/// <param name="progress">Told of each file before it is copied: its path, and how many were copied before.</param>
public sealed class FileTaking(IVolume files, Action<string, int> progress)
{
    private const int PieceBytes = 1 << 20, DeepestFolder = 100;
    private readonly List<string> problems = [];

    /// <summary>How many files were copied.</summary>
    public int FileCount { get; private set; }

    /// <summary>How many bytes they have.</summary>
    public long TakenBytes { get; private set; }

    /// <summary>What was left out, and why.</summary>
    public IReadOnlyList<string> Problems => problems;

    /// <summary>Copies a file, or a folder with all that is in it.</summary>
    /// <param name="path">The path on the volume.</param>
    /// <param name="target">The path in the running system, which must be free.</param>
    /// <exception cref="UnreadableException">There is nothing at that path, or it can't be written.</exception>
    public void Take(string path, string target)
    {
        var found = path.Length == 0 ? new VolumeFile("", IsFolder: true, 0, FileMarks.Folder) : files.Find(path)
            ?? throw new UnreadableException(
                $"{path} is not there.",
                "No file or folder has this path on the volume.",
                "'keel files look' shows what is there.");
        if (Path.Exists(target))
        {
            throw new WrongUsageException(
                $"{target} is already there.",
                "What is taken out of a disk never replaces anything.",
                "Name another place to put it.");
        }

        try
        {
            if (found.IsFolder) TakeFolder(path, target, depth: 0);
            else TakeFile(path, target);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                $"{target} can't be written.",
                $"The system says: {e.Message}",
                "Name a folder that can be written, with room for it.",
                e);
        }
    }

    private void TakeFolder(string path, string target, int depth)
    {
        if (depth > DeepestFolder)
        {
            problems.Add($"{path}: lies too deep");
            return;
        }

        if (!LinuxNative.CreatePrivateFolder(target)) throw new IOException("another one has the same name here");
        foreach (var file in ListOf(path))
            TakeInner(file, $@"{path}\{file.Name}", Path.Combine(target, HostName(file.Name)), depth);
    }

    /// <summary>One thing of a folder; what can't be taken is left out, and told.</summary>
    private void TakeInner(VolumeFile file, string path, string target, int depth)
    {
        if (WhyNot(file) is { } why)
        {
            problems.Add($"{path}: {why}");
            return;
        }

        try
        {
            if (file.IsFolder) TakeFolder(path, target, depth + 1);
            else TakeFile(path, target);
        }
        catch (KeelException e)
        {
            problems.Add($"{path}: {e.Why}");
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException && !IsFull(target))
        {
            problems.Add($"{path}: {(Path.Exists(target) ? "another one has the same name here" : e.Message)}");
        }
    }

    /// <summary>A file system without room, or that is gone, ends it: all that follows would be left out too.</summary>
    private static bool IsFull(string target)
    {
        const int leastBytes = 4096;
        try
        {
            return new DriveInfo(Path.GetDirectoryName(target)!).AvailableFreeSpace < leastBytes;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or ArgumentException)
        {
            return true;
        }
    }

    private static string? WhyNot(VolumeFile file)
    {
        const int longestName = 255;                            // bytes: the most that file systems of Linux take
        if (file.IsElsewhere) return "stands for something else";
        if (file.Name.Contains('\\', StringComparison.Ordinal)) return @"its name has a \ in it, as only paths have";
        if (!IsWellFormed(file.Name)) return "its name is no text, but half a letter";
        return Encoding.UTF8.GetByteCount(file.Name) > longestName ? "its name is too long for a file of this system" : null;
    }

    /// <summary>Whether every half of a letter (a surrogate) has its other half.</summary>
    private static bool IsWellFormed(string name)
    {
        for (var at = 0; at < name.Length; at++)
        {
            if (!char.IsSurrogate(name[at])) continue;
            if (at + 1 == name.Length || !char.IsSurrogatePair(name[at], name[at + 1])) return false;
            at++;
        }

        return true;
    }

    private IReadOnlyList<VolumeFile> ListOf(string path)
    {
        try
        {
            return files.List(path);
        }
        catch (KeelException e)
        {
            problems.Add($"{path}: {e.Why}");
            return [];
        }
    }

    /// <summary>A name of the volume may be none here: parts of a path, or marks of one, come from a disk too.</summary>
    private static string HostName(string name) =>
        name is "." or ".." ? "_" : name.Replace('/', '_').Replace('\0', '_');

    /// <summary>A file that can't be read to its end is not left behind in part.</summary>
    private void TakeFile(string path, string target)
    {
        progress(path, FileCount);
        var source = files.OpenFile(path);
        var copy = HostFile.CreateNew(target);
        try
        {
            using (copy)
            {
                var piece = new byte[(int)Math.Min(PieceBytes, Math.Max(1, source.LengthBytes))];
                for (long at = 0; at < source.LengthBytes; at += piece.Length)
                {
                    var length = (int)Math.Min(piece.Length, source.LengthBytes - at);
                    source.Read(at, piece.AsSpan(0, length));
                    copy.Write(piece.AsSpan(0, length));
                }
            }

            if (files.WrittenAt(path) is { } written) File.SetLastWriteTimeUtc(target, written.UtcDateTime);
        }
        catch
        {
            File.Delete(target);
            throw;
        }

        FileCount++;
        TakenBytes += source.LengthBytes;
    }
}

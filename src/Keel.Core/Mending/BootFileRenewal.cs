using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending;

/// <summary>Writes boot files from their copies: what is missing or different, with folders and usual attributes.</summary>
internal static class BootFileRenewal
{
    private const int LinesShown = 4;
    private const long RoomForFolders = 128 * 1024, CopiesLimitBytes = 1024L * 1024 * 1024;

    /// <summary>
    /// The installation on the machine whose copies are the newest; null where none has a boot manager for that firmware.
    /// </summary>
    public static BootFileSource? BestSource(Machine machine, BootFiles files) =>
        machine.Installations
            .OrderByDescending(installation => installation.Build)
            .Select(BootFileSource.Of)
            .FirstOrDefault(source => source.Has(files));

    /// <summary>Writes the copies to a volume; gives a line for each file that changed, and one for those that stay.</summary>
    /// <param name="machine">The machine that they are for.</param>
    /// <param name="volume">The volume.</param>
    /// <param name="source">Where they come from.</param>
    /// <param name="copies">The files, and where on the volume they go.</param>
    /// <param name="all">Write also what is the same, or newer than its copy.</param>
    /// <exception cref="RefusedException">There is too little room, or no sound boot manager among them; nothing was
    ///     written.</exception>
    public static List<Remark> Write(
        Machine machine,
        DiskVolume volume,
        BootFileSource source,
        IReadOnlyList<BootFileCopy> copies,
        bool all)
    {
        if (copies.Sum(copy => copy.SizeBytes) is var total and > CopiesLimitBytes)
        {
            throw new RefusedException(
                $"The boot files were not recreated on {volume}.",
                $"The copies in {source.Name} say that they have {total} bytes, far more than boot files have.",
                "Name an installation medium with --from.");
        }

        var lines = new List<Remark>();
        var wanted = new List<(BootFileCopy Copy, byte[] Bytes)>();
        var (same, newer) = (0, 0);
        var leftOut = new List<Remark>();
        foreach (var copy in copies)
        {
            var bytes = source.Read(copy);
            if (WhyNot(machine, copy, bytes, source) is { } why)
            {
                leftOut.Add(why);
                continue;
            }

            var standing = all ? Standing.Different : Compare(machine, volume, copy, bytes);
            if (standing == Standing.Same) same++;
            else if (standing == Standing.Newer) newer++;
            else wanted.Add((copy, bytes));
        }

        RefuseWithoutRoom(volume, wanted);
        volume.Edit(files =>
        {
            foreach (var (copy, bytes) in wanted)
                lines.Add(
                    Remark.Of(
                        "line.file",
                        Fact.Path.Is(copy.Target),
                        Fact.Volume.Is(volume.Ref),
                        Fact.Change.Is(WriteOne(files, copy.Target, bytes))));
            if (wanted.Exists(file =>
                file.Copy.Target.StartsWith(BootFiles.Bios.StoreFolder + '\\', StringComparison.OrdinalIgnoreCase)))
            {
                files.SetMarks(BootFiles.Bios.StoreFolder, UsualMarks.Of(BootFiles.Bios.StoreFolder, isFolder: true));
            }
        });
        if (lines.Count > LinesShown) lines = Shortened(lines, wanted.Sum(file => (long)file.Bytes.Length));
        if (leftOut.Count > 0)
        {
            lines.Add(Remark.Of(
                "line.copies-left-out",
                Fact.FileCount.Is(leftOut.Count),
                Fact.Files.Is([.. leftOut.Take(LinesShown)])));
        }

        if (same > 0) lines.Add(Remark.Of("line.files-same", Fact.FileCount.Is(same)));
        if (newer > 0) lines.Add(Remark.Of("line.files-newer", Fact.FileCount.Is(newer)));
        return lines;
    }

    private static List<Remark> Shortened(List<Remark> lines, long writtenBytes) =>
    [
        .. lines.Take(LinesShown - 1),
        Remark.Of(
            "line.more-files",
            Fact.FileCount.Is(lines.Count - LinesShown + 1),
            Fact.SizeBytes.Is(writtenBytes))
    ];

    /// <summary>
    /// Why a copy is left out: it is damaged. Without a sound boot manager nothing is written at all.
    /// </summary>
    private static Remark? WhyNot(Machine machine, BootFileCopy copy, byte[] bytes, BootFileSource source)
    {
        if (BootFileJudge.WhyNot(copy.Target, bytes, machine.Processor) is not { } why) return null;
        if (!IsManager(copy.Target)) return why;
        throw new RefusedException(
            "Nothing was written.",
            $"{copy.Source} in {source.Name} is not a sound boot manager for this machine.",
            "Name an installation medium of the same Windows with --from.");
    }

    private static bool IsManager(string target) =>
        target.Equals(BootFiles.Bios.ManagerPath, StringComparison.OrdinalIgnoreCase)
            || target.Equals(BootFiles.Uefi.ManagerPath, StringComparison.OrdinalIgnoreCase);

    /// <summary>Writes one file, whatever stands in its place, and gives it its usual attributes.</summary>
    public static Remark WriteOne(IVolume files, string path, byte[] bytes)
    {
        var facts = new List<KnownFact> { Fact.SizeBytes.Is(bytes.Length) };
        if (MakeWay(files, path) is { } inTheWay) facts.Add(Fact.OtherPath.Is(inTheWay));
        var before = files.Find(path);
        if (before is { IsFolder: false }) facts.Add(Fact.NumberBefore.Is(before.SizeBytes));
        files.CreateFolder(VolumeExtensions.FolderOf(path));
        if (before is { IsFolder: true })
        {
            facts.Add(Fact.OtherPath.Is(SetAside(files, path)));
        }

        files.WriteFile(path, bytes);
        files.SetMarks(path, UsualMarks.Of(path));
        return Remark.Of(before is { IsFolder: false } ? "file.replaced" : "file.new", facts);
    }

    /// <summary>Sets a file aside that stands where a folder on the way to a path should be; null where none does.</summary>
    internal static string? MakeWay(IVolume files, string path)
    {
        for (var end = path.IndexOf('\\', 1); end > 0; end = path.IndexOf('\\', end + 1))
        {
            if (files.Find(path[..end]) is { IsFolder: false }) return SetAside(files, path[..end]);
        }

        return null;
    }

    /// <summary>Gives what stands at a path another name in its folder; gives that name.</summary>
    internal static string SetAside(IVolume files, string path)
    {
        var folder = VolumeExtensions.FolderOf(path);
        var aside = Enumerable
            .Range(1, 1000)
            .Select(number => $"{VolumeExtensions.NameOf(path)}.aside{number}")
            .First(name => files.Find($@"{folder}\{name}") is null);
        files.Rename(path, aside);
        return aside;
    }

    private static Standing Compare(Machine machine, DiskVolume volume, BootFileCopy copy, byte[] bytes)
    {
        if (volume.Files is not { } files || files.Find(copy.Target) is not { IsFolder: false } file) return Standing.Different;
        const FileMarks unreadableForBootCode = FileMarks.Compressed | FileMarks.Encrypted | FileMarks.Sparse;
        try
        {
            var there = files.OpenFile(copy.Target);
            if (file.SizeBytes == bytes.Length
                && (file.Marks & unreadableForBootCode) == FileMarks.None
                && there.ReadBytes(0, bytes.Length).AsSpan().SequenceEqual(bytes))
            {
                return Standing.Same;
            }

            var isReadable = (file.Marks & unreadableForBootCode) == FileMarks.None && file.SizeBytes <= ProgramState.LimitBytes;
            return isReadable && Stays(machine, copy.Target, there.ReadBytes(0, (int)file.SizeBytes), bytes)
                ? Standing.Newer
                : Standing.Different;
        }
        catch (UnreadableException)
        {
            return Standing.Different;
        }
    }

    /// <summary>
    /// What stands there stays where it is sound and newer than the copy; of the same version, where the copy is no better
    /// proven.
    /// </summary>
    private static bool Stays(Machine machine, string target, byte[] there, byte[] copy)
    {
        if (BootFileJudge.WhyNot(target, there, machine.Processor) is not null) return false;
        var (own, other) = (ProgramFile.VersionOf(new MemoryBlocks(there)), ProgramFile.VersionOf(new MemoryBlocks(copy)));
        if (own is null || other is null || own != other) return own > other;
        return GoodCopies.IsProven(machine, there) || !GoodCopies.IsProven(machine, copy);
    }

    private static void RefuseWithoutRoom(DiskVolume volume, List<(BootFileCopy Copy, byte[] Bytes)> wanted)
    {
        if (wanted.Count == 0 || volume.Files is not { } files) return;
        const int clusterBytes = 4096;
        var needed =
            wanted.Sum(file =>
                ((file.Bytes.Length
                    + clusterBytes - 1) / clusterBytes * clusterBytes) - (files.Find(file.Copy.Target)?.SizeBytes ?? 0))
                + RoomForFolders;
        if (needed <= files.FreeBytes) return;
        throw new RefusedException(
            $"There is too little room on {volume}, and nothing was written.",
            $"{wanted.Count} files need {needed} bytes more, and {files.FreeBytes} are free.",
            "Delete files there that are not needed; 'keel files list' shows those that are.");
    }

    private enum Standing
    {
        Same,
        Newer,
        Different
    }
}

using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Programs;
using Keel.Core.Windows;

namespace Keel.Core.Machines;

/// <summary>Reads every block of every start file, and keeps where the disk failed.</summary>
/// <param name="Failures">The places in files that could not be read.</param>
public sealed record StartFileScan(IReadOnlyList<UnreadBlock> Failures)
{
    private const int PieceBytes = 256 * 1024, BlockBytes = 4096, FailuresAFile = 16;

    /// <summary>Reads the files.</summary>
    /// <param name="machine">The machine.</param>
    /// <param name="progress">Told each file before it is read: its path, its number, and how many there are.</param>
    public static StartFileScan Read(Machine machine, Action<string, int, int> progress)
    {
        var files = FilesOf(machine).Distinct().ToList();
        var failures = new List<UnreadBlock>();
        for (var index = 0; index < files.Count; index++)
        {
            progress(files[index].Path, index + 1, files.Count);
            failures.AddRange(ReadOne(machine, files[index]));
        }

        return new StartFileScan(failures);
    }

    /// <summary>The failures that are still there, now that something may have been written.</summary>
    internal IEnumerable<UnreadBlock> Remaining(Machine machine) =>
        Failures.Where(failure => Contents(machine, failure.File) is { } contents && !IsReadable(contents, failure.OffsetBytes));

    private static IEnumerable<FilePlace> FilesOf(Machine machine)
    {
        if (machine.SystemVolume is { } system)
        {
            yield return FilePlace.Of(system, machine.BootFiles.ManagerPath);
            yield return FilePlace.Of(system, machine.BootFiles.StorePath);
            if (machine.Firmware == FirmwareKind.Uefi) yield return FilePlace.Of(system, FallbackFile.PathFor(machine.Processor));
        }

        if (StartedWindows.Of(machine).Windows is not { } windows) yield break;
        if (windows.LoaderFile is { } loader) yield return FilePlace.Of(windows.Volume, loader);
        foreach (var name in (string[])[
            @"config\SYSTEM",
            @"config\SOFTWARE",
            windows.KernelFile,
            windows.HardwareLayerFile
        ])
        {
            yield return FilePlace.Of(windows.Volume, $@"{windows.System32}\{name}");
        }

        foreach (var driver in machine.SystemHive?.Services().Where(service =>
            service.IsDriver && service.Effective is ServiceStart.Boot or ServiceStart.System)
            ?? [])
        {
            if (driver.FileIn(windows.Folder) is { } path) yield return FilePlace.Of(windows.Volume, path);
        }
    }

    private static List<UnreadBlock> ReadOne(Machine machine, FilePlace place)
    {
        var failures = new List<UnreadBlock>();
        if (Contents(machine, place) is not { } contents) return failures;
        var piece = new byte[PieceBytes];
        for (long at = 0; at < contents.LengthBytes && failures.Count < FailuresAFile; at += PieceBytes)
        {
            var count = (int)Math.Min(PieceBytes, contents.LengthBytes - at);
            try
            {
                contents.Read(at, piece.AsSpan(0, count));
            }
            catch (KeelException)
            {
                for (var block = at; block < at + count; block += BlockBytes)
                {
                    if (!IsReadable(contents, block)) failures.Add(new UnreadBlock(place, block));
                }
            }
        }

        return failures;
    }

    private static bool IsReadable(IReadableBlocks contents, long offset)
    {
        if (offset >= contents.LengthBytes) return true;
        try
        {
            contents.ReadBytes(offset, (int)Math.Min(BlockBytes, contents.LengthBytes - offset));
            return true;
        }
        catch (KeelException)
        {
            return false;
        }
    }

    private static IReadableBlocks? Contents(Machine machine, FilePlace place)
    {
        try
        {
            return place.VolumeIn(machine) is { Files: { } files }
                && files.Find(place.Path) is { IsFolder: false, SizeBytes: > 0 and <= ProgramState.LimitBytes }
                ? files.OpenFile(place.Path)
                : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }
}

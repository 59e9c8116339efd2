using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain;

/// <summary>The files of a machine's boot chain: those of the system volume, and each installation's loaders.</summary>
/// <param name="Lines">The files that the start goes through, and of the others those with something wrong.</param>
/// <param name="OthersSound">How many others are there and sound.</param>
public sealed record BootFileList(IReadOnlyList<BootFileLine> Lines, int OthersSound)
{
    private static readonly string[] LogEndings = [".LOG", ".LOG1", ".LOG2"];

    /// <param name="machine">The machine.</param>
    /// <param name="all">Also the others that are sound.</param>
    public static BootFileList Of(Machine machine, bool all)
    {
        var lines = new List<BootFileLine>();
        var others = 0;
        if (machine.SystemVolume is { Files: not null } system)
        {
            var copies = Copies(machine);
            lines.AddRange(OnSystemVolume(machine, system, copies));
            foreach (var copy in copies
                .Where(copy => !lines.Exists(line => line.Path.Equals(copy.Target, StringComparison.OrdinalIgnoreCase)))
                .ToList())
            {
                var line = Look(machine, system, copy.Target, "", isProgram: false, isNeeded: false, copies);
                if (all || line.Problems.Count > 0) lines.Add(line);
                else others++;
            }
        }

        foreach (var installation in machine.Installations)
        {
            foreach (var (name, role) in (ReadOnlySpan<(string, string)>)[
                (machine.BootFiles.LoaderName, "Windows loader"),
                (machine.BootFiles.ResumeLoaderName, "resume loader")
            ])
                lines.Add(
                    Look(
                        machine,
                        installation.Volume,
                        $@"{installation.Folder}\System32\{name}",
                        role,
                        isProgram: true,
                        isNeeded: name == machine.BootFiles.LoaderName,
                        []));
        }

        return new BootFileList(lines, others);
    }

    private static IEnumerable<BootFileLine> OnSystemVolume(Machine machine, DiskVolume system, IReadOnlyList<Copy> copies)
    {
        var files = machine.BootFiles;
        yield return Look(machine, system, files.ManagerPath, "boot manager", files.IsUefi, isNeeded: true, copies);
        if (files.IsUefi)
        {
            yield return Look(
                machine,
                system,
                FallbackFile.PathFor(machine.Processor),
                "fallback file",
                isProgram: true,
                isNeeded: true,
                copies);
        }

        yield return Look(machine, system, files.StorePath, "store", isProgram: false, isNeeded: true, copies);
        foreach (var ending in LogEndings.Where(ending => system.Files?.Find(files.StorePath + ending) is not null))
        {
            yield return Look(
                machine,
                system,
                files.StorePath + ending,
                "log of the store",
                isProgram: false,
                isNeeded: false,
                copies);
        }

        yield return Look(machine, system, files.MemoryTest, "memory test", isProgram: true, isNeeded: false, copies);
    }

    private static BootFileLine Look(
        Machine machine,
        DiskVolume volume,
        string path,
        string role,
        bool isProgram,
        bool isNeeded,
        IReadOnlyList<Copy> copies)
    {
        if (volume.Files is not { } files)
        {
            var unreadable = Remark.Of("boot-file.volume-unreadable", Fact.Volume.Is(volume.Ref));
            return new BootFileLine(volume, path, role, null, null, [unreadable], isNeeded);
        }

        try
        {
            var file = files.Find(path);
            var problems = new List<Remark>();
            var state = isProgram ? ProgramState.Of(volume, files, path, machine.Processor).Condition : Plain(file);
            if (ProblemOf(state) is { } problem) problems.Add(problem);
            var version = file is { IsFolder: false, SizeBytes: > 0 } ? ProgramFile.VersionOf(files.OpenFile(path)) : null;
            if (file is not null) problems.AddRange(WrongMarks(machine, volume, path, file));
            if (copies.FirstOrDefault(copy => copy.Target.Equals(path, StringComparison.OrdinalIgnoreCase)) is { } copy
                && problems.Count == 0)
            {
                problems.AddRange(Beside(file!, version, copy));
            }

            return new BootFileLine(volume, path, role, file, version, problems, isNeeded);
        }
        catch (KeelException e)
        {
            var unreadable = Remark.Of("boot-file.unreadable", Fact.Why.Is(e.Why));
            return new BootFileLine(volume, path, role, null, null, [unreadable], isNeeded);
        }
    }

    private static ProgramCondition Plain(VolumeFile? file) => file switch
    {
        null => ProgramCondition.Missing,
        { IsFolder: true } => ProgramCondition.Folder,
        { SizeBytes: 0 } => ProgramCondition.Empty,
        _ => ProgramCondition.Sound
    };

    private static Remark? ProblemOf(ProgramCondition condition) => condition switch
    {
        ProgramCondition.Missing => Remark.Of("boot-file.missing"),
        ProgramCondition.Folder => Remark.Of("boot-file.folder"),
        ProgramCondition.Empty => Remark.Of("boot-file.empty"),
        ProgramCondition.ZeroFilled => Remark.Of("boot-file.zeros"),
        ProgramCondition.NotProgram => Remark.Of("boot-file.no-program"),
        ProgramCondition.CutShort => Remark.Of("boot-file.cut-short"),
        ProgramCondition.OtherProcessor => Remark.Of("boot-file.other-processor"),
        _ => null
    };

    private static IEnumerable<Remark> WrongMarks(Machine machine, DiskVolume volume, string path, VolumeFile file)
    {
        if (volume == machine.SystemVolume
            && machine.Firmware == FirmwareKind.Bios
            && path == machine.BootFiles.ManagerPath
            && (file.Marks & (FileMarks.Compressed | FileMarks.Encrypted)) is var packed and not FileMarks.None)
        {
            yield return Remark.Of("boot-file.packed", Fact.Attributes.Is(FileMarksText.Words(packed)));
        }

        if (volume != machine.SystemVolume) yield break;
        var hinder =
            Checks.ManagerFileCheck.MarksThatHinder(machine).FirstOrDefault(entry => entry.Path == path).Marks & file.Marks;
        if (hinder != FileMarks.None)
            yield return Remark.Of("boot-file.attributes", Fact.Attributes.Is(FileMarksText.Words(hinder)));
    }

    private static IEnumerable<Remark> Beside(VolumeFile file, Version? version, Copy copy)
    {
        if (version is not null && copy.Version is { } other && version < other)
            yield return Remark.Of("boot-file.older", Fact.OtherVersion.Is($"{other}"));
        else if ((version is null || version == copy.Version) && file.SizeBytes < copy.SizeBytes)
            yield return Remark.Of("boot-file.shorter", Fact.SizeBytes.Is(copy.SizeBytes));
    }

    /// <summary>
    /// What the newest installation has to recreate the files from; versions are read of those that the start goes through only.
    /// </summary>
    private static List<Copy> Copies(Machine machine)
    {
        if (machine.Installations.OrderByDescending(found => found.Build).FirstOrDefault() is not { } installation) return [];
        var source = BootFileSource.Of(installation);
        string[] started = [machine.BootFiles.ManagerPath, machine.BootFiles.MemoryTest, FallbackFile.PathFor(machine.Processor)];
        return [.. source.FilesFor(machine.BootFiles, machine.Processor).Select(copy => new Copy(
            copy.Target,
            copy.SizeBytes,
            started.Contains(copy.Target, StringComparer.OrdinalIgnoreCase)
                ? ProgramFile.VersionOf(new MemoryBlocks(source.Read(copy)))
                : null))];
    }

    private sealed record Copy(string Target, long SizeBytes, Version? Version);
}

using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Errors;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>Replaces a damaged start program by a spare copy that the installation keeps, of the same or a newer version only.</summary>
internal sealed class RestoreProgram : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        LoaderFileCheck.Missing, LoaderFileCheck.Folder, LoaderFileCheck.NotProgram, LoaderFileCheck.CutShort, LoaderFileCheck.ZeroFilled, LoaderFileCheck.WrongMachine, LoaderFileCheck.Altered, LoaderFileCheck.Unreadable,
        KernelFilesCheck.Missing, KernelFilesCheck.Altered, KernelFilesCheck.Damaged, KernelFilesCheck.WrongMachine,
        StartDriversCheck.Missing, StartDriversCheck.Altered, StartDriversCheck.Damaged, StartDriversCheck.WrongMachine
    ];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (finding.File is not { } place || place.VolumeIn(machine) is not { Files: { } files } volume) return Attempt.Refused("The file's volume can't be read.", "Mend the file system first.");
        var name = VolumeExtensions.NameOf(place.Path);
        var (windows, _) = StartedWindows.Of(machine);
        var folder = windows?.Folder ?? machine.Installations.FirstOrDefault(found => found.Volume == volume)?.Folder;
        var copies = folder is null ? [] : SpareCopies.Find(volume, files, folder, name, machine.Processor);
        var standing = VersionThere(files, place.Path);
        var copy = copies.FirstOrDefault(candidate => standing is null || candidate.Version is null || candidate.Version >= standing);
        if (copy is null) return Attempt.Refused(WhyNone(name, copies, standing), $"Bring {name} of the same build ({machine.Installations.FirstOrDefault(found => found.Volume == volume)?.Build}) and processor from an installation medium or a sister machine, and copy it to {place.Path} on {volume}.");
        var bytes = files.ReadFile(copy.Path);
        var line = "";
        volume.Edit(writable => line = WriteKeepingMarks(writable, place.Path, bytes));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            $"Replace {name} by the installation's own spare copy.",
            [$"{place.Path} on {volume}: {line}", $"from {copy.Path}, version {copy.Version?.ToString() ?? "unknown"}, written {copy.Written:yyyy-MM-dd}{(standing is null ? "" : $"; the damaged one says {standing}")}"]));
    }

    private static string WriteKeepingMarks(IVolume files, string path, byte[] bytes)
    {
        var before = files.Find(path);
        var line = BootFileRenewal.WriteOne(files, path, bytes);
        if (before is { IsFolder: false }) files.SetMarks(path, before.Marks & FileMarks.Changeable);
        return line;
    }

    private static Version? VersionThere(IVolume files, string path)
    {
        try
        {
            return files.FileExists(path) ? ProgramFile.VersionOf(files.OpenFile(path)) : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }

    private static string WhyNone(string name, IReadOnlyList<SpareCopy> copies, Version? standing) => copies.Count == 0
        ? $"The installation keeps no sound spare copy of {name}: its boot file copies, component store and driver store were looked through."
        : $"The newest spare copy of {name} is {copies[0].Version}, older than the {standing} that is there.";
}

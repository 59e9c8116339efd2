using System.Globalization;
using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Snapshots;
using Keel.Core.Windows;

namespace Keel.Cli.Views;

/// <summary>Shows what is in a folder of a volume.</summary>
internal sealed class FolderView(Output output)
{
    private const int MostShown = 2000;
    private static readonly string[] Programs = [".exe", ".dll", ".sys", ".efi"];

    /// <summary>The top of every volume, by its role.</summary>
    public void ShowTops(Machine machine)
    {
        var folders = machine.Volumes
            .Where(volume => volume.Files is not null)
            .Select(volume => Read(machine, volume, ""))
            .ToList();
        if (output.IsJson)
        {
            KeelJson.Print(new FoldersDocument(folders), KeelJson.Default.FoldersDocument);
            return;
        }

        foreach (var folder in folders) Show(folder, machine.NamedDisks.Count > 1, isFirst: folder == folders[0]);
        foreach (var volume in machine.Volumes.Where(volume => volume.FilesProblem is not null))
            output.Paragraph($"! {volume.FilesProblem!.What} {volume.FilesProblem.Why}", style: "yellow", hang: 2);
        foreach (var volume in machine.LockedVolumes)
            output.Paragraph($"! {EncryptionWords.OpenedBy(volume)} Unlock it with --unlock -", style: "yellow", hang: 2);
        if (folders.Count == 0)
            output.Paragraph("No volume's files can be read; 'keel survey' shows what is on the disk.", style: "red");
    }

    /// <summary>One folder.</summary>
    public void Show(Machine machine, DiskVolume volume, string path)
    {
        var folder = Read(machine, volume, path);
        if (output.IsJson) KeelJson.Print(new FoldersDocument([folder]), KeelJson.Default.FoldersDocument);
        else Show(folder, machine.NamedDisks.Count > 1, isFirst: true);
    }

    /// <summary>One folder as a snapshot has it.</summary>
    public void Show(DiskVolume volume, IVolume files, Snapshot snapshot, string path)
    {
        var folder = Read(volume, files, [], path) with { Snapshot = snapshot.Made };
        if (output.IsJson) KeelJson.Print(new FoldersDocument([folder]), KeelJson.Default.FoldersDocument);
        else Show(folder, withDisk: false, isFirst: true);
    }

    /// <summary>What was copied out.</summary>
    public void ShowTaken(FileTaking taking, string target)
    {
        if (output.IsJson)
        {
            KeelJson.Print(
                new TakenDocument(target, taking.FileCount, taking.TakenBytes, taking.Problems),
                KeelJson.Default.TakenDocument);
            return;
        }

        output.Paragraph(
            $"Copied {Words.Count(taking.FileCount, "file", "files")}, {Sizes.Text(taking.TakenBytes)}, to {target}.",
            style: taking.Problems.Count == 0 ? "green" : "bold");
        foreach (var problem in taking.Problems) output.Paragraph($"! {problem}", indent: 2, style: "yellow", hang: 2);
        if (taking.Problems.Count > 0)
            output.Paragraph($"{Words.Count(taking.Problems.Count, "one was", "of them were")} left out.", style: "yellow");
    }

    private void Show(FolderDocument folder, bool withDisk, bool isFirst)
    {
        var roles = folder.Roles.Count == 0 ? "" : $" ({string.Join(" + ", folder.Roles)})";
        var disk = withDisk ? $" of {folder.Disk}" : "";
        var name = folder.Folder.Length == 0 ? @"\" : folder.Folder;
        var count = Words.Count(folder.Files.Count, "file or folder", "files and folders");
        var then = folder.Snapshot is { } made
            ? $" on {made.UtcDateTime.ToString("yyyy-MM-dd HH:mm 'UTC'", CultureInfo.InvariantCulture)}"
            : "";
        output.Heading($"{name} on volume {folder.Volume}{disk}{roles}{then}: {count}", isFirst);
        output.Columns([.. folder.Files.Take(MostShown).Select(Row)]);
        if (folder.Files.Count > MostShown)
            output.Paragraph($"and {folder.Files.Count - MostShown} more, which --format json has", indent: 2, style: "grey");
    }

    private static (string, string?)[] Row(FolderFileDocument file) =>
    [
        (file.IsFolder ? "folder" : file.Size.ToString("N0", CultureInfo.InvariantCulture), "grey"),
        (file.Time is { } time ? time.UtcDateTime.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture) : "-", "grey"),
        (file.Attributes, "yellow"),
        (file.Version is null ? file.Name : $"{file.Name}  {file.Version}", file.IsFolder ? "bold" : null)
    ];

    private static FolderDocument Read(Machine machine, DiskVolume volume, string path) =>
        Read(volume, Locks.FilesOf(volume), [.. VolumeRoles.Of(machine, volume).Select(role => ToDocument.Word(role))], path);

    private static FolderDocument Read(DiskVolume volume, IVolume files, IReadOnlyList<string> roles, string path)
    {
        var list = files.Find(path) is { IsFolder: false } single && path.Length > 0 ? [single] : files.List(path);
        var folder = files.Find(path) is { IsFolder: false } && path.Length > 0 ? VolumeExtensions.FolderOf(path) : path;
        return new FolderDocument(
            volume.DiskPath,
            volume.Number,
            roles,
            path,
            [
                .. list
                    .OrderBy(file => !file.IsFolder)
                    .ThenBy(file => file.Name, StringComparer.OrdinalIgnoreCase)
                    .Select(file => Describe(files, $@"{folder}\{file.Name}", file))
            ]);
    }

    private static FolderFileDocument Describe(IVolume files, string path, VolumeFile file)
    {
        var (time, version) = ((DateTimeOffset?)null, (Version?)null);
        try
        {
            time = files.WrittenAt(path);
            if (!file.IsFolder && Programs.Contains(Path.GetExtension(file.Name), StringComparer.OrdinalIgnoreCase))
                version = ProgramFile.VersionOf(files.OpenFile(path));
        }
        catch (KeelException)
        {
            // a file that can't be read is shown by its name all the same
        }

        return new FolderFileDocument(
            file.Name,
            file.IsFolder,
            file.SizeBytes,
            time,
            FileMarksText.Words(file.Marks & ~FileMarks.Folder),
            version?.ToString());
    }
}

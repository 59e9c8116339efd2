using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Cli.Views;

/// <summary>Shows boot files and their attributes.</summary>
internal sealed class FilesView(Output output)
{
    public void ShowList(Machine machine, BootFileList list)
    {
        if (output.IsJson)
        {
            KeelJson.Print(ToDocument.Files(list), KeelJson.Default.FilesDocument);
            return;
        }

        var wrong = list.Lines.Where(line => line.Problems.Count > 0).ToList();
        var needed = wrong.Find(line => line.IsNeeded);
        if (machine.SystemVolume is null)
            output.Paragraph($"There is no system volume: {Words.Of(machine.SystemVolumeReason)}.", style: "red");
        else if (machine.SystemVolume.Files is null)
        {
            output.Paragraph(
                $"The files of {machine.SystemVolume} can't be read. "
                    + $"{machine.SystemVolume.FilesProblem?.What} {machine.SystemVolume.FilesProblem?.Why}".TrimEnd(),
                style: "red");
        }

        if (machine.SystemVolume?.Files is not null && machine.Installations.Count == 0)
        {
            output.Paragraph(
                "No Windows was found, so its loader, and what to recreate files from, could not be looked at.",
                style: "yellow");
        }
        else if (machine.SystemVolume?.Files is not null || wrong.Count > 0) output.Paragraph(
            wrong.Count == 0
                ? "All boot files are there, and as they should be."
            : $"{(needed is null ? "Nothing that the start needs is wrong, but: " : "")}{(needed ?? wrong[0]).Path} on "
                + $"{(needed ?? wrong[0]).Volume}: {Words.Of((needed ?? wrong[0]).Problems[0])}.",
            style: wrong.Count == 0 ? "green" : needed is null ? "yellow" : "red");
        foreach (var group in list.Lines.GroupBy(line => line.Volume))
        {
            output.Heading($"{Capital(group.Key.ToString())}{(group.Key == machine.SystemVolume ? ", the system volume" : "")}");
            output.Columns([.. group.Select(line => new (string, string?)[]
            {
                (line.Path, null),
                (line.File is { IsFolder: false } file ? $"{file.SizeBytes}" : "-", null),
                (Letters(line.File), null),
                (ProblemsOf(line), line.Problems.Count > 0 ? "red" : "grey")
            })]);
            if (group.Key == machine.SystemVolume && list.OthersSound > 0)
            {
                output.Paragraph(
                    $"and {list.OthersSound} other files there (fonts, languages, resources), shown with --all",
                    indent: 2,
                    style: "grey");
            }
        }

        if (machine.SystemVolume?.Files is null) output.Paragraph("Next:", output.Commands.Diagnose(machine), style: "bold");
        else if (wrong.Count > 0) output.Paragraph("Next:", output.Commands.Renew(machine), style: "bold");
    }

    public void ShowMarks(DiskVolume volume, string path, VolumeFile file)
    {
        if (output.IsJson)
        {
            KeelJson.Print(
                new MarksDocument(
                    volume.Number,
                    path,
                    ToDocument.Marks(file.Marks),
                    ToDocument.Marks(UsualMarks.Of(path, file.IsFolder))),
                KeelJson.Default.MarksDocument);
            return;
        }

        output.Paragraph($"{path} on {volume} is {FileMarksText.Words(file.Marks & ~FileMarks.Folder)}.", style: "bold");
        output.Paragraph($"Usual for it: {FileMarksText.Words(UsualMarks.Of(path, file.IsFolder))}.");
    }

    /// <summary>What is wrong, or what the file is for; and its version.</summary>
    private static string ProblemsOf(BootFileLine line) =>
        string.Join(
            ", ",
            ((string?[])[
                line.Problems.Count > 0 ? string.Join("; ", line.Problems.Select(Words.Of)) : line.Role,
                line.Version?.ToString()
            ]).Where(word => !string.IsNullOrEmpty(word)));

    private static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];

    /// <summary>Four places: read-only, hidden, system, archive; then what else matters.</summary>
    private static string Letters(VolumeFile? file)
    {
        if (file is null) return "-";
        var letters = string.Concat(
            new (FileMarks Mark, char Letter)[]
            {
                (FileMarks.ReadOnly, 'r'),
                (FileMarks.Hidden, 'h'),
                (FileMarks.System, 's'),
                (FileMarks.Archive, 'a')
            }.Select(known => (file.Marks & known.Mark) != FileMarks.None ? known.Letter : '.'));
        return letters
            + ((file.Marks & FileMarks.Compressed) != FileMarks.None ? "c" : "")
            + ((file.Marks & FileMarks.Encrypted) != FileMarks.None ? "e" : "");
    }
}

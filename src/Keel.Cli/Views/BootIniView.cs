using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.BootLists;
using Keel.Core.Machines;
using Keel.Core.Requests;
using Keel.Core.Volumes;

namespace Keel.Cli.Views;

/// <summary>Shows the list of systems of an NT 5 machine.</summary>
internal sealed class BootIniView(Output output)
{
    /// <summary>The lines, each with the volume that it leads to.</summary>
    public void Show(Machine machine, BootList list)
    {
        if (output.IsJson)
        {
            KeelJson.Print(ToDocument(machine, list), KeelJson.Default.BootIniDocument);
            return;
        }

        var wait = list.WaitSeconds switch
        {
            null => "does not say how long the menu waits",
            -1 => "lets the menu wait for ever",
            { } seconds => $"lets the menu wait {Words.Count(seconds, "second", "seconds")}"
        };
        output.Paragraph($"boot.ini has {Words.Count(list.Lines.Count, "line", "lines")}, and {wait}.", style: "bold");
        foreach (var line in list.Lines) ShowLine(machine, list, line);
        if (list.Default is { } target && list.Preferred is null)
            output.Paragraph($"! It prefers {target}, and has no line for it.", indent: 2, style: "yellow", hang: 2);
    }

    /// <summary>Whether each line leads to something that is there; says which do not.</summary>
    public bool Check(Machine machine)
    {
        var state = machine.BootList;
        if (state.Condition is BootListCondition.Missing or BootListCondition.NoVolume && machine.Nt5Evidence is null)
            _ = BootListRequests.Open(machine);
        var lines = state is { Condition: BootListCondition.Loaded, List: { } list } ? list.Lines : [];
        var wrong = lines.Where(line => ProblemOf(machine, line) is not null).ToList();
        var isSound = lines.Count > 0 && wrong.Count == 0;
        if (output.IsJson)
        {
            KeelJson.Print(
                new BootIniCheckDocument(
                    isSound,
                    Words.Of(state.Seen),
                    [.. wrong.Select(line => ToDocument(machine, state.List!, line))]),
                KeelJson.Default.BootIniCheckDocument);
            return isSound;
        }

        if (lines.Count == 0)
        {
            output.Paragraph($"WRONG: {Words.Of(state.Seen)}.", style: "red");
            output.Paragraph("Next:", output.Commands.Mend(machine));
            return false;
        }

        output.Paragraph(
            isSound ? $"SOUND: each of {Words.Count(lines.Count, "line", "lines")} leads to something that is there."
                : $"WRONG: {Words.Count(wrong.Count, "line leads", "lines lead")} nowhere.",
            style: isSound ? "green" : "red");
        foreach (var line in wrong) ShowLine(machine, state.List!, line);
        if (!isSound) output.Paragraph("Next:", output.Commands.Mend(machine));
        return isSound;
    }

    private void ShowLine(Machine machine, BootList list, BootLine line)
    {
        var preferred = list.Preferred == line ? ", preferred" : "";
        var unread = line.Number > BootLine.MostRead ? ", not read by the loader" : "";
        output.Paragraph($"{line.Number}  {line.Title ?? line.Target}{preferred}{unread}", indent: 2, style: "bold", hang: 3);
        output.Paragraph(PlaceOf(machine, line), indent: 5, hang: 2);
        output.Paragraph($"{line.Target} {line.Switches}".TrimEnd(), indent: 5, style: "grey", hang: 2);
        if (ProblemOf(machine, line) is { } problem) output.Paragraph($"! {problem}", indent: 5, style: "yellow", hang: 2);
    }

    private static string PlaceOf(Machine machine, BootLine line)
    {
        if (line.Arc is not { } path) return $"a boot sector in the file {line.Target}";
        var disk = ArcPlaces.DiskOf(machine, path);
        var volume = ArcPlaces.VolumeOf(machine, path);
        var number = path.Kind == ArcKind.Signature ? $"the disk of signature {path.Adapter:x8}" : $"disk {path.Rdisk + 1}";
        var meant = volume is not null ? $"{volume} of {Path.GetFileName(volume.DiskPath)}"
            : disk is null ? "a disk that was not given" : "a partition that is not there";
        return $"{path.Folder} on partition {path.Partition} of {number} = {meant}";
    }

    private static string? ProblemOf(Machine machine, BootLine line)
    {
        if (line.Arc is not { } path) return FileProblem(machine, line.Target);
        if (ArcPlaces.VolumeOf(machine, path) is not { } volume) return "That disk or partition is not here.";
        if (volume.Files is not { } files) return $"The files of {volume} can't be read.";
        return files.FolderExists($@"{path.Folder}\System32") ? null : $"There is no Windows in {path.Folder} on {volume}.";
    }

    /// <summary>The letter means the system volume, whatever Windows calls it.</summary>
    private static string? FileProblem(Machine machine, string target)
    {
        var path = target.Length > 2 ? target[2..] : target;
        return machine.SystemVolume is { Files: { } files } volume && !files.FileExists(path) && !files.FolderExists(path)
            ? $"{path} is not on {volume}."
            : null;
    }

    private static BootIniDocument ToDocument(Machine machine, BootList list) => new(
        list.WaitSeconds,
        list.Default,
        [.. list.Lines.Select(line => ToDocument(machine, list, line))]);

    private static BootLineDocument ToDocument(Machine machine, BootList list, BootLine line)
    {
        var volume = line.Arc is { } path ? ArcPlaces.VolumeOf(machine, path) : null;
        return new BootLineDocument(
            line.Number,
            line.Target,
            line.Title,
            line.Switches,
            list.Preferred == line,
            volume?.DiskPath,
            volume?.Number,
            line.Arc?.Folder,
            ProblemOf(machine, line));
    }
}

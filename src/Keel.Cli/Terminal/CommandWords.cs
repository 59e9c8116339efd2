using Keel.Core.Firmware;
using Keel.Core.Layout;
using Keel.Core.Machines;

namespace Keel.Cli.Terminal;

/// <summary>
/// Commands that are printed so that they work when they are typed: with the logbook, the disks and the variables that were used.
/// </summary>
/// <param name="logbook">The folder given with --logbook; null for the usual one.</param>
internal sealed class CommandWords(string? logbook)
{
    private readonly Dictionary<string, string> typed = [];

    private const string PlainLetters = "/._-+:,=@%";

    /// <summary>The options that say where keys are, as they were typed.</summary>
    public string Keys { get; set; } = "";

    /// <summary>The options that say where copies may come from, as they were typed.</summary>
    public string Sources { get; set; } = "";

    private string Logbook => logbook is null ? "" : $" --logbook {Quoted(logbook)}";

    /// <summary>Notes how a path was typed; it is printed so from now on.</summary>
    public void Typed(string path, string fullPath) => typed[fullPath] = path;

    /// <summary>A path as it was typed, where it was.</summary>
    public string AsTyped(string fullPath) => typed.GetValueOrDefault(fullPath, fullPath);

    public string Diagnose(Machine machine) => $"keel diagnose {Of(machine)}{Logbook}";

    public string Survey(Machine machine) => $"keel survey {Of(machine)}";

    public string History(Machine machine) => $"keel history {Of(machine)}";

    public string Mend(Machine machine) => $"keel mend {Of(machine)}{Sources}{Logbook}";

    public string Renew(Machine machine) => $"keel files renew {Of(machine)}{Logbook}";

    public string CheckFiles(Machine machine, string options) => $"keel files check {Of(machine)}{options}{Logbook}";

    /// <summary>With words for what the technician puts in.</summary>
    public string ChangeService(Machine machine) =>
        $"keel services change {Disks(machine)}{Keys} NAME boot|system|automatic|demand|disabled{Logbook}";

    public string ChangeProgram(Machine machine) => $"keel programs change {Disks(machine)}{Keys} NAME off{Logbook}";

    public string RescueLayout(string path) => $"keel layout rescue {Quoted(AsTyped(path))}{Logbook}";

    public string Undo(Machine machine) => $"keel undo {Disks(machine)}{Variables(machine)}{Logbook}";

    public string Undo(string path, string? record = null) =>
        $"keel undo {Quoted(AsTyped(path))}{(record is null ? "" : $" --record {record}")}{Logbook}";

    public string Finish(string path) => $"keel logbook finish {Quoted(AsTyped(path))}{Logbook}";

    public string DropGone(Machine machine)
    {
        var disks = string.Concat(machine.NamedDisks.Select(disk => $" --with {Quoted(AsTyped(disk.Path))}"));
        return $"keel firmware drop gone{disks}{Variables(machine)}{Logbook}";
    }

    /// <summary>A machine's disks and variables.</summary>
    private string Of(Machine machine) => Disks(machine) + Inside(machine) + Variables(machine) + Sector(machine) + Keys;

    /// <summary>The option for a virtual disk inside the disk, layer by layer.</summary>
    private static string Inside(Machine machine) =>
        string.Concat(machine.Terms.Inside.Select(place => $" --inside {Quoted($"{place}")}"));

    /// <summary>The option for the sector size of an image, where its table does not show it.</summary>
    private static string Sector(Machine machine) =>
        machine.StartDisk is { IsImage: true, Overlay.SectorBytes: not 512 and var bytes, Layout.Scheme: not PartitionScheme.Gpt }
            ? $" --sector {bytes}"
            : "";

    /// <summary>A word as a shell takes it whole.</summary>
    public static string Quoted(string word)
    {
        if (word.Length > 0
            && word.All(letter => char.IsAsciiLetterOrDigit(letter) || PlainLetters.Contains(letter, StringComparison.Ordinal)))
        {
            return word;
        }

        return word.Any(char.IsControl)
            ? $"$'{string.Concat(word.Select(Spelled))}'"
            : $"'{word.Replace("'", "'\\''", StringComparison.Ordinal)}'";
    }

    /// <summary>A letter as a shell takes it between $' and '.</summary>
    private static string Spelled(char letter) =>
        char.IsControl(letter) ? $"\\x{(int)letter:x2}"
        : letter is '\'' or '\\' ? $"\\{letter}"
        : $"{letter}";

    private string Disks(Machine machine) =>
        Quoted(AsTyped(machine.StartDisk.Outermost.Path))
            + string.Concat(machine.NamedDisks.Skip(1).Select(disk => $" --with {Quoted(AsTyped(disk.Path))}"));

    /// <summary>The option for the firmware's variables, where it is needed.</summary>
    private string Variables(Machine machine) =>
        machine.Variables is { } variables && variables.Folder != FirmwareVariables.UsualFolder
            ? $" --variables {Quoted(AsTyped(variables.Folder))}"
            : "";
}

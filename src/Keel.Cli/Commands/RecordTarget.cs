using Keel.Cli.Terminal;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Firmware;
using Keel.Core.Logbook;
using Keel.Core.Machines;

namespace Keel.Cli.Commands;

/// <summary>What undo and finish work on: disks that were named, or the folder of a firmware's variables.</summary>
internal sealed class RecordTarget : IDisposable
{
    private readonly List<MachineDisk> disks = [];
    private readonly RecordDisks elsewhere;

    private RecordTarget(string path, bool isFolder, DiskTerms terms)
    {
        elsewhere = new RecordDisks(terms);
        Terms = terms;
        Path = path;
        IsFolder = isFolder;
    }

    /// <summary>The path in full.</summary>
    public string Path { get; }

    /// <summary>How its disks are opened.</summary>
    public DiskTerms Terms { get; }

    /// <summary>Whether it is the folder of a firmware's variables.</summary>
    public bool IsFolder { get; }

    /// <summary>The disks that were named, the first one first.</summary>
    public IReadOnlyList<DiskSeen> Disks => [.. disks.Select(DiskSeen.Of)];

    /// <exception cref="UnreadableException">A path is no disk.</exception>
    public static RecordTarget Open(string path, IReadOnlyList<string> with, DiskTerms terms)
    {
        var isFolder = Directory.Exists(path);
        var target = new RecordTarget(
            isFolder ? System.IO.Path.GetFullPath(path).TrimEnd('/') : DiskOpening.FullName(path),
            isFolder,
            terms);
        try
        {
            if (!isFolder) target.disks.Add(MachineDisk.Open(path, terms));
            foreach (var other in with) target.disks.Add(MachineDisk.Open(other, terms));
            return target;
        }
        catch
        {
            target.Dispose();
            throw;
        }
    }

    /// <summary>The record's disks where they are now, and its variables.</summary>
    /// <param name="wanted">Which states are meant.</param>
    /// <param name="alone">Only what was named.</param>
    /// <param name="variables">The folder of the variables that was named; null for none.</param>
    /// <param name="commands">Spells the command that would name it.</param>
    /// <exception cref="WrongUsageException">It wrote variables in a folder that nobody named.</exception>
    public UndoTargets Work(
        RepairRecord record,
        Func<RecordState, bool> wanted,
        bool alone,
        string? variables,
        CommandWords commands)
    {
        var folder = variables ?? (IsFolder ? Path : OwnVariables(record));
        var hasVariables = record.VariablesPart is { } part && wanted(record.Parts[part]) && (!alone || IsFolder);
        if (hasVariables && folder is null) throw NotNamed(record.Document.Variables!.Folder, commands);
        if (hasVariables && !Directory.Exists(folder)) hasVariables = false;
        return new UndoTargets(
            record,
            IsFolder && alone ? [] : elsewhere.Find(record, Disks, wanted, alone),
            hasVariables ? folder : null);
    }

    /// <summary>Those of this computer; a folder that only the record names could be any.</summary>
    private static string? OwnVariables(RepairRecord record) =>
        record.Document.Variables?.Folder == FirmwareVariables.UsualFolder ? FirmwareVariables.UsualFolder : null;

    private WrongUsageException NotNamed(string folder, CommandWords commands) => new(
        "Nothing was written: that repair changed firmware variables too, and their folder was not named.",
        $"The record says that it was {folder}.",
        "If that is right, name it with --variables; --alone goes back on the disk only:")
    {
        Commands = [$"{commands.Undo(Path)} --variables {CommandWords.Quoted(commands.AsTyped(folder))}"]
    };

    public void Dispose()
    {
        disks.ForEach(disk => disk.Dispose());
        elsewhere.Dispose();
    }
}

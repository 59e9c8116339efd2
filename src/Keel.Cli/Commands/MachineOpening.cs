using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Cli.Wording;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Firmware;
using Keel.Core.Machines;
using Keel.Core.Sticks;
using Keel.Core.Volumes;

namespace Keel.Cli.Commands;

/// <summary>Opens the machine that is meant: the disks named, or, where none is, those built into this computer.</summary>
internal sealed class MachineOpening(Output output)
{
    /// <summary>Whether removable disks count too, where none was named.</summary>
    public bool WithRemovable { get; init; }

    /// <summary>The folder with the firmware's variables; null for those of this computer, where the disk is its own.</summary>
    public string? Variables { get; init; }

    /// <summary>How the machine starts; null to judge by the disk.</summary>
    public FirmwareKind? Firmware { get; init; }

    /// <summary>The sector size of images; null where it is to be told from their tables.</summary>
    public int? SectorBytes { get; init; }

    /// <summary>What else was said of how disks are to be opened.</summary>
    public DiskTerms Terms { get; init; } = DiskTerms.Usual;

    /// <param name="disk">The disk that it starts from; null for those of this computer.</param>
    /// <param name="with">Its other disks.</param>
    /// <exception cref="WrongUsageException">None was named, and it is not clear which are meant.</exception>
    public Machine Open(string? disk, IReadOnlyList<string> with)
    {
        string[] paths = [.. DisksOf(disk), .. with];
        var machine = Machine.Open(paths, VariablesFor(paths[0]), Firmware, SectorBytes, Terms);
        foreach (var typed in paths) output.Commands.Typed(typed, DiskOpening.FullName(typed));
        if (machine.StartDisk.Inside is { } inside)
            output.Commands.Typed($"{output.Commands.AsTyped(inside.Host.Path)}, {inside.Place}", inside.Path);

        OpenVolumes(machine);
        if (Variables is { } folder) output.Commands.Typed(folder, machine.Variables!.Folder);
        return machine;
    }

    /// <summary>Opens what the keys open, before anything is judged; a key that opens nothing is a slip, and said.</summary>
    private void OpenVolumes(Machine machine)
    {
        if (Terms.Keys is not { Keys.Count: > 0 } keys) return;
        FileSystemLibraries.RequireForKeys();
        var locked = output.Working("opening the encrypted volumes", () => machine.LockedVolumes);
        if (keys.Unused.Count == 0) return;
        if (locked.Any(volume => volume.IsCutShort)) return;        // the partition first, and then the key may fit
        if (locked.Count == 0)
        {
            output.Message($"Note: no listed volume is locked, so the key from {keys.Unused[0].From} opens nothing yet.");
            return;
        }

        machine.Dispose();
        throw new WrongUsageException(
            $"The key from {keys.Unused[0].From} opens no volume here.",
            string.Join(" ", locked.Select(volume => EncryptionWords.OpenedBy(volume))),
            "Compare the first 8 digits of the identifier with those of the key that was looked up.");
    }

    /// <summary>The disk named; else those of this computer, the one that it starts from first.</summary>
    public IReadOnlyList<string> DisksOf(string? disk) => disk is null ? Meant() : [disk];

    /// <summary>The folder named; else those of this computer, where the disk is a real one of it.</summary>
    private FirmwareVariables? VariablesFor(string diskPath)
    {
        if (Variables is not null) return FirmwareVariables.Open(Variables);
        return FirmwareVariables.AreHere && DiskPath.IsDiskOfThisComputer(diskPath)
            ? FirmwareVariables.Open(FirmwareVariables.UsualFolder)
            : null;
    }

    /// <summary>The disks of this computer that make one machine, the one that it starts from first.</summary>
    private string[] Meant()
    {
        var all = ComputerDisks.All().Where(disk => !RecoveryMedia.IsOne(disk.Path)).ToList();
        var disks = all.Where(disk => WithRemovable || !disk.IsRemovable).ToList();
        if (disks.Count == 0) throw NoDisk(all);
        if (disks.Count == 1) return [disks[0].Path];
        var starting = disks.Where(disk => HasSystemVolume(disk.Path)).ToList();
        if (starting.Count > 1) return [Chosen(starting)];
        var first = starting.Count == 1 ? starting[0] : disks[0];
        return [first.Path, .. disks.Where(disk => disk != first).Select(disk => disk.Path)];
    }

    /// <summary>One of several disks that each make a machine: asked for, where somebody is there to answer.</summary>
    private string Chosen(IReadOnlyList<ComputerDisk> disks)
    {
        if (!Output.CanAsk || output.IsJson) throw SeveralMachines(disks);
        var chosen = new ChoiceMenu(output).Ask(
            "More than one machine could be meant. Which disk does it start from?",
            [.. disks.Take(9).Select(DiskView.Line)]);
        return chosen is { } index ? disks[index].Path : throw SeveralMachines(disks);
    }

    private static bool HasSystemVolume(string path)
    {
        try
        {
            using var machine = Machine.Open(path);
            return machine.SystemVolume is not null && machine.Store.Condition != StoreCondition.Missing;
        }
        catch (KeelException)
        {
            return false;
        }
    }

    private static WrongUsageException NoDisk(IReadOnlyList<ComputerDisk> removable) => new(
        "No disk was named, and this computer has none built in.",
        removable.Count == 0
            ? "The kernel lists no disk at all: its driver may be missing, or the disk is not connected."
            : $"There are removable ones: {string.Join(", ", removable.Select(disk => disk.Path))}.",
        removable.Count == 0 ? "Name an image of the disk." : "Name the disk, or take these too with --removable.");

    private static WrongUsageException SeveralMachines(IReadOnlyList<ComputerDisk> disks) => new(
        "No disk was named, and more than one could be meant.",
        $"{string.Join(" and ", disks.Select(disk => disk.Path))} each have boot files and a store of their own.",
        "Name the disk that the machine starts from; 'keel survey' shows them all.");
}

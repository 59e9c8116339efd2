using System.CommandLine;
using Keel.Cli.Views;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Requests;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Snapshots;
using Keel.Core.Windows;

namespace Keel.Cli.Commands;

/// <summary>keel snapshots list | look | take | restore</summary>
internal static class SnapshotsCommand
{
    private const string VolumeWords = "the volume; else the only one that has snapshots";

    public static Command Create(CommonOptions common)
    {
        var command = new Command("snapshots", "Older states of a volume: list them, copy files out, go back to one.");
        command.Subcommands.Add(List(common));
        command.Subcommands.Add(Look(common));
        command.Subcommands.Add(Take(common));
        command.Subcommands.Add(Restore(common));
        return command;
    }

    private static Command List(CommonOptions common)
    {
        var options = new MachineOptions(common, isDiskNeeded: true);
        var volume = CommonOptions.Volume("the volume; else all");
        var command = new Command("list", "The snapshots of each volume: when they were made, and what for.") { volume };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            var number = parsed.GetValue(volume);
            var volumes = machine.Volumes.ToList();
            if (number is not null) volumes = [BootCodeRequests.VolumeOrSystem(machine, number)];
            return new SnapshotView(common.OutputOf(parsed)).Show(machine, [.. volumes.Where(one => one.HasSnapshots)]) ? 0 : 1;
        });
        return command;
    }

    private static Command Look(CommonOptions common)
    {
        var options = new MachineOptions(common, isDiskNeeded: true);
        var number = Number();
        var folder = new Argument<string?>("FOLDER")
        {
            Description = @"the folder, as in \Windows\System32; left out, the top",
            Arity = ArgumentArity.ZeroOrOne
        };
        var volume = CommonOptions.Volume(VolumeWords);
        var command = new Command("look", "What was in a folder then.") { number, folder, volume };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            var holder = VolumeOf(machine, parsed.GetValue(volume));
            using var snapshots = holder.OpenSnapshots()!;
            var snapshot = Chosen(snapshots, parsed.GetValue(number));
            var files = snapshots.Files(snapshot);
            var path = Rooted(parsed.GetValue(folder) ?? @"\");
            if (path.Length > 0 && files.Find(path) is null) throw NotThere(path, snapshot);
            new FolderView(common.OutputOf(parsed)).Show(holder, files, snapshot, path);
            return 0;
        });
        return command;
    }

    private static Command Take(CommonOptions common)
    {
        var options = new MachineOptions(common, isDiskNeeded: true);
        var number = Number();
        var path = new Argument<string>("PATH") { Description = @"the file or folder, as in \Windows\System32\config\SYSTEM" };
        var target = new Argument<string>("OUT") { Description = "where to put it in this system; must not exist" };
        var volume = CommonOptions.Volume(VolumeWords);
        var command = new Command("take", "Copy a file or a folder as it was then; the disk is not changed.")
        {
            number,
            path,
            target,
            volume
        };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            using var machine = options.Open(parsed);
            using var snapshots = VolumeOf(machine, parsed.GetValue(volume)).OpenSnapshots()!;
            var snapshot = Chosen(snapshots, parsed.GetValue(number));
            var files = snapshots.Files(snapshot);
            var place = Rooted(parsed.GetValue(path)!);
            if (place.Length > 0 && files.Find(place) is null) throw NotThere(place, snapshot);
            var progress = output.Progress("copying");
            var taking = new FileTaking(files, (file, before) => progress(file, before + 1, int.MaxValue));
            taking.Take(place, parsed.GetValue(target)!);
            new FolderView(output).ShowTaken(taking, parsed.GetValue(target)!);
            return taking.Problems.Count == 0 ? 0 : 1;
        });
        return command;
    }

    private static Command Restore(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var number = Number();
        var volume = CommonOptions.Volume("the volume of the Windows; else that of the only one");
        var only = new Option<string?>("--only")
        {
            Description = "hives, drivers or system (its start files)",
            HelpName = "PART"
        };
        only.TakesOneOf("hives", "drivers", "system");
        var command = new Command("restore", "Go back to a restore point: hives and start files. Documents stay.")
        {
            number,
            only,
            volume
        };
        writing.AddTo(command);
        command.SetAction(parsed => writing.Run(parsed, machine => SnapshotRequests.Restore(
            machine,
            InstallationChoice.Of(machine, parsed.GetValue(volume)),
            parsed.GetValue(number),
            ScopeOf(parsed.GetValue(only)))));
        return command;
    }

    private static RestoreScope ScopeOf(string? word) => word switch
    {
        "hives" => RestoreScope.Hives,
        "drivers" => RestoreScope.Drivers,
        "system" => RestoreScope.System,
        _ => RestoreScope.All
    };

    private static Argument<int> Number() => new("N") { Description = "its number in 'keel snapshots list'; 1 is the youngest" };

    private static DiskVolume VolumeOf(Machine machine, int? number)
    {
        if (number is not null && BootCodeRequests.VolumeOrSystem(machine, number) is { HasSnapshots: false } bare)
            throw None($"{bare} has no snapshots.");
        if (number is not null) return BootCodeRequests.VolumeOrSystem(machine, number);
        var candidates = machine.Volumes.Where(volume => volume.HasSnapshots).ToList();
        return candidates switch
        {
            [var only] => only,
            [] => throw None("No volume has snapshots."),
            _ => throw new WrongUsageException(
                "Which volume?",
                $"Several have snapshots: {string.Join(", ", candidates)}.",
                "Name one with --volume.")
        };
    }

    private static UnreadableException None(string what) => new(
        what,
        "Windows keeps them where system protection is switched on; nothing of the kind is there.",
        "'keel files look' shows the files of today.");

    private static Snapshot Chosen(VolumeSnapshots snapshots, int number) =>
        snapshots.List.FirstOrDefault(snapshot => snapshot.Number == number)
            ?? throw new WrongUsageException(
                $"There is no snapshot {number}.",
                $"They have the numbers 1 to {snapshots.List.Count}, from the youngest on.",
                "'keel snapshots list' shows them.");

    private static UnreadableException NotThere(string path, Snapshot snapshot) => new(
        $"{path} is not in snapshot {snapshot.Number}.",
        "No file or folder had this path then.",
        "'keel snapshots look' shows what was there; another snapshot may have it.");

    private static string Rooted(string words) => $@"\{words.Replace('/', '\\').Trim('\\')}".TrimEnd('\\');
}

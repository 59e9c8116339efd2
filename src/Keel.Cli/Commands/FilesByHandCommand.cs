using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Requests;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Keel.Core.Windows.Media;

namespace Keel.Cli.Commands;

/// <summary>keel files look | take | put | rename | drop</summary>
internal static class FilesByHandCommand
{
    private const int PackedMarkBytes = 4;
    private const string PathWords = @"the path from the top of its volume, as in \Windows\System32; also 2:\Windows";

    public static Command Look(CommonOptions common)
    {
        var options = new MachineOptions(common, isDiskNeeded: true);
        var folder = new Argument<string?>("FOLDER")
        {
            Description = PathWords + "; left out, the top of every volume",
            Arity = ArgumentArity.ZeroOrOne
        };
        var volume = CommonOptions.Volume("the volume; else the first that has the folder, the system volume before others");
        var command = new Command(
            "look",
            "What is in a folder, hidden files too: attributes, size, time, version.") { folder, volume };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            var view = new FolderView(common.OutputOf(parsed));
            var words = parsed.GetValue(folder);
            if (words is null && parsed.GetValue(volume) is null) view.ShowTops(machine);
            else
            {
                var (holder, path) = PlaceOf(machine, words ?? @"\", parsed.GetValue(volume));
                view.Show(machine, holder, path);
            }

            return 0;
        });
        return command;
    }

    public static Command Take(CommonOptions common)
    {
        var options = new MachineOptions(common, isDiskNeeded: true);
        var path = new Argument<string>("PATH") { Description = PathWords };
        var target = new Argument<string>("OUT") { Description = "where to put it in this system; must not exist" };
        var volume = CommonOptions.Volume("the volume; else the first that has the file, the system volume before others");
        var command = new Command(
            "take",
            "Copy a file or a folder out of the disk; the disk is not changed.") { path, target, volume };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            using var machine = options.Open(parsed);
            var (holder, place) = PlaceOf(machine, parsed.GetValue(path)!, parsed.GetValue(volume));
            var taking = new FileTaking(Locks.FilesOf(holder), Told(output));
            taking.Take(place, parsed.GetValue(target)!);
            new FolderView(output).ShowTaken(taking, parsed.GetValue(target)!);
            return taking.Problems.Count == 0 ? 0 : 1;
        });
        return command;
    }

    public static Command Put(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var source = new Argument<string>("FILE") { Description = "a file of this system" };
        var path = new Argument<string>("PATH") { Description = PathWords + "; a folder, or the file's name there" };
        var volume = CommonOptions.Volume("the volume, where PATH does not name it");
        var command = new Command("put", "Copy a file onto the disk; one that is there is set aside.") { source, path, volume };
        writing.AddTo(command);
        command.SetAction(parsed =>
        {
            using var file = OpenSource(parsed.GetValue(source)!);
            var contents = UnpackedWherePacked(file, parsed.GetValue(source)!, parsed.GetValue(path)!);
            return writing.Run(parsed, machine =>
            {
                var (holder, place) = TargetOf(machine, parsed.GetValue(path)!, parsed.GetValue(volume));
                if (place.Length == 0 || holder.Files?.FolderExists(place) == true)
                    place = $@"{place}\{Path.GetFileName(parsed.GetValue(source)!)}";
                return FilesByHand.Put(machine, holder, place, contents, file.Written);
            });
        });
        return command;
    }

    public static Command Rename(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var path = new Argument<string>("PATH") { Description = PathWords };
        var name = new Argument<string>("NAME") { Description = "its new name, in the same folder" };
        var volume = CommonOptions.Volume("the volume; else the first that has the file, the system volume before others");
        var command = new Command("rename", "Give a file or folder another name.") { path, name, volume };
        writing.AddTo(command);
        command.SetAction(parsed => writing.Run(parsed, machine =>
        {
            var (holder, place) = PlaceOf(machine, parsed.GetValue(path)!, parsed.GetValue(volume));
            return FilesByHand.Rename(machine, holder, place, parsed.GetValue(name)!);
        }));
        return command;
    }

    public static Command Drop(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var path = new Argument<string>("PATH") { Description = PathWords };
        var erase = new Option<bool>("--erase") { Description = "take it off the volume, instead of setting it aside" };
        var volume = CommonOptions.Volume("the volume; else the first that has the file, the system volume before others");
        var command = new Command("drop", "Set a file or folder aside under another name.") { path, erase, volume };
        writing.AddTo(command);
        command.SetAction(parsed => writing.Run(parsed, machine =>
        {
            var (holder, place) = PlaceOf(machine, parsed.GetValue(path)!, parsed.GetValue(volume));
            return FilesByHand.Drop(machine, holder, place, parsed.GetValue(erase));
        }));
        return command;
    }

    private static Action<string, int> Told(Output output)
    {
        var progress = output.Progress("copying");
        return (path, before) => progress(path, before + 1, int.MaxValue);
    }

    /// <summary>The volume and the path that words mean, which is there.</summary>
    private static (DiskVolume Volume, string Path) PlaceOf(Machine machine, string words, int? number)
    {
        var (path, named) = Parse(machine, words);
        if (path.Length == 0) return TargetOf(machine, words, number);
        var holder = FileRequests.VolumeWith(machine, path, named ?? number);
        return Locks.FilesOf(holder).Find(path) is not null
            ? (holder, path)
            : throw new UnreadableException(
                $"{path} is not on {holder}.",
                "No file or folder has this path there.",
                FileRequests.NearPath([holder], path) ?? "'keel files look' shows what is there.");
    }

    /// <summary>The volume and the path that words mean, whether or not something is there.</summary>
    private static (DiskVolume Volume, string Path) TargetOf(Machine machine, string words, int? number)
    {
        var (path, named) = Parse(machine, words);
        var folder = VolumeExtensions.FolderOf(path);
        var holder = (named ?? number) is null && folder.Length > 0
            ? FileRequests.VolumeWith(machine, folder, null)
            : BootCodeRequests.VolumeOrSystem(machine, named ?? number);
        return (holder, path);
    }

    /// <summary>The path, and the volume that stands before it: by its number, or by the letter that Windows gives it.</summary>
    private static (string Path, int? Volume) Parse(Machine machine, string words)
    {
        var path = words.Replace('/', '\\');
        if (InsidePath.TryParse(path) is { } place) return (place.File.TrimEnd('\\'), place.Volume);
        if (path.Split(':', 2) is [var digits, var rest] && int.TryParse(digits, out var number))
            return (Rooted(rest), number);
        return path is [var letter, ':', ..] && char.IsAsciiLetter(letter)
            ? (Rooted(path[2..]), VolumeOfLetter(machine, char.ToUpperInvariant(letter)))
            : (Rooted(path), null);
    }

    private static int VolumeOfLetter(Machine machine, char letter)
    {
        var letters = machine.Letters;
        return machine.Volumes
            .FirstOrDefault(volume => letters?.LetterOf(volume) is { Length: > 0 } own && own[0] == letter)?.Number
            ?? throw new WrongUsageException(
                $"No volume is {letter}: here.",
                machine.Installations.Count == 0
                    ? $"Windows gives the letters, and none was found.{Locks.Told(machine)}"
                    : "Windows gives this letter to none of these volumes.",
                @"Name the volume by its number, as in 2:\Windows; 'keel survey' shows numbers and letters.");
    }

    private static string Rooted(string path) => $@"\{path.Trim('\\')}".TrimEnd('\\');

    /// <summary>What a medium packs is wanted unpacked, under a name of its own; anything else as it is.</summary>
    private static IReadableBlocks UnpackedWherePacked(HostFileBlocks file, string source, string target)
    {
        if (target.EndsWith('_') || file.LengthBytes is < PackedMarkBytes or > PackedFile.MostBytes) return file;
        if (!PackedFile.IsOne(source, file.ReadBytes(0, PackedMarkBytes))) return file;
        return Path.HasExtension(target.Replace('\\', '/'))
            ? new MemoryBlocks(PackedFile.Unpack(source, file.ReadBytes(0, (int)file.LengthBytes)))
            : throw new WrongUsageException(
                $"{source} is packed.",
                "It is unpacked on its way, and its own name is then another.",
                @"Name the file as PATH, as in \Windows\System32\hal.dll.");
    }

    private static HostFileBlocks OpenSource(string path)
    {
        try
        {
            return HostFileBlocks.Open(path);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                $"{path} can't be read.",
                $"The system says: {e.Message}",
                "Name a file of this system.",
                e);
        }
    }
}

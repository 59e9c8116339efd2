using System.CommandLine;
using Keel.Cli.Views;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Keel.Core.Windows.Media;

namespace Keel.Cli.Commands;

/// <summary>keel files list | mark | renew, and what is done by hand</summary>
internal static class FilesCommand
{
    private const string VolumePrefix = "volume:";

    public static Command Create(CommonOptions common) =>
        new(
            "files",
            "The files that a start goes through, their attributes, recreating them; and any other file by hand.")
            {
                List(common),
                Mark(common),
                Renew(common),
                FilesCheckCommand.Create(common),
                FilesByHandCommand.Look(common),
                FilesByHandCommand.Take(common),
                FilesByHandCommand.Put(common),
                FilesByHandCommand.Rename(common),
                FilesByHandCommand.Drop(common)
            };

    private static Command List(CommonOptions common)
    {
        var options = new MachineOptions(common);
        var all = new Option<bool>("--all") { Description = "also fonts, languages and other files that are as they should be" };
        var command = new Command("list", "Every file of the boot chain, hidden ones too, and what is wrong with it.") { all };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            var list = BootFileList.Of(machine, parsed.GetValue(all));
            new FilesView(common.OutputOf(parsed)).ShowList(machine, list);
            common.TellReads(parsed, machine);
            return machine.SystemVolume?.Files is null || list.Lines.Any(line => line.Problems.Count > 0) ? 1 : 0;
        });
        return command;
    }

    private static Command Mark(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var path = new Argument<string>("PATH")
        {
            Description = @"the file or folder from the top of its volume, as in \Boot\BCD"
        };
        var words = new Argument<string[]>("CHANGE")
        {
            Description = "+hidden -readonly and so on: hidden, system, readonly, archive; none to look",
            Arity = ArgumentArity.ZeroOrMore
        };
        var usual = new Option<bool>("--usual") { Description = "the attributes that this boot file usually has" };
        var volume = CommonOptions.Volume("the volume; else the first that has the file, the system volume before others");
        var command = new Command("mark", "Show or change attributes, on NTFS and FAT.") { path, words, usual, volume };
        writing.AddTo(command);
        command.SetAction(parsed =>
        {
            var (file, changes) = (Backslashes(parsed.GetValue(path)!), parsed.GetValue(words)!);
            if (changes.Length > 0 || parsed.GetValue(usual))
            {
                return writing.Run(
                    parsed,
                    machine =>
                        FileRequests.Mark(
                            machine,
                            file,
                            parsed.GetValue(volume),
                            found => Changed(found, file, changes, parsed.GetValue(usual))));
            }

            using var machine = writing.Open(parsed);
            var holder = FileRequests.VolumeWith(machine, file, parsed.GetValue(volume));
            new FilesView(
                common.OutputOf(parsed)).ShowMarks(
                        holder,
                        file,
                        holder.Files?.Find(file)
                            ?? throw new UnreadableException(
                                $"{file} is not on {holder}.",
                                "No file or folder has this path there.",
                                "'keel files list' shows the boot files."));
            return 0;
        });
        return command;
    }

    private static Command Renew(CommonOptions common)
    {
        var writing = new WritingOptions(common);
        var from = new Option<string?>("--from")
        {
            Description = "a mounted installation medium, its ISO image, or another Windows; or volume:N of this disk",
            HelpName = "FOLDER"
        };
        var kind = new Option<string?>("--for")
        {
            Description = "bios, uefi or both; else as the disk is laid out",
            HelpName = "KIND"
        };
        kind.TakesOneOf("bios", "uefi", "both");
        var all = new Option<bool>("--all") { Description = "also files that are the same, or newer than their copy" };
        var format = new Option<bool>("--new-file-system")
        {
            Description = "format the EFI system partition first; shows what is lost"
        };
        var label = new Option<string>("--label")
        {
            Description = "with --new-file-system: its label",
            DefaultValueFactory = _ => "SYSTEM"
        };
        var serial = new Option<string?>("--serial")
        {
            Description = "with --new-file-system: its serial number, 8 hexadecimal digits",
            HelpName = "HEX"
        };
        var volume = CommonOptions.Volume("the system volume to fill; else the one that the chain takes");
        var command = new Command(
            "renew",
            "Recreate the boot files from the installation's own copies or a medium; makes a store where there is none.")
            {
                from,
                kind,
                all,
                format,
                label,
                serial,
                volume
            };
        writing.AddTo(command);
        command.SetAction(parsed => writing.Run(parsed, machine =>
        {
            var (folder, sourceVolume) = SourceOf(parsed.GetValue(from));
            var terms = new RenewTerms(KindsOf(parsed.GetValue(kind)), folder, sourceVolume, parsed.GetValue(all))
            {
                Format = parsed.GetValue(format),
                Label = parsed.GetValue(label)!,
                Serial = SerialOf(parsed.GetValue(serial))
            };
            return FileRequests.Renew(machine, parsed.GetValue(volume), terms, RepairTerms.Usual);
        }));
        return command;
    }

    /// <summary>A folder, the image of a medium, or with "volume:N" the number of a volume of the disk.</summary>
    private static (IFileTree? Folder, int? Volume) SourceOf(string? source)
    {
        if (source is null) return (null, null);
        return source.StartsWith(VolumePrefix, StringComparison.OrdinalIgnoreCase)
            && int.TryParse(source[VolumePrefix.Length..], out var number)
            ? (null, number)
            : (WithBootFiles(MediumTrees.Of(source)), null);
    }

    /// <summary>Of a medium and the images of files on it, the first that has boot files; else the medium.</summary>
    private static IFileTree WithBootFiles(IReadOnlyList<IFileTree> trees) =>
        trees.FirstOrDefault(tree => BootFileSource.TryOf(tree) is not null) ?? trees[0];

    private static IReadOnlyList<BootFiles> KindsOf(string? word) => word switch
    {
        "bios" => [BootFiles.Bios],
        "uefi" => [BootFiles.Uefi],
        "both" => [BootFiles.Bios, BootFiles.Uefi],
        _ => []
    };

    private static uint? SerialOf(string? text) => text is null ? null
        : uint.TryParse(
            text.Replace("-", "", StringComparison.Ordinal),
            System.Globalization.NumberStyles.HexNumber,
            null,
            out var serial)
        ? serial
        : throw new WrongUsageException(
            $"\"{text}\" is no serial number.",
            "It has up to 8 hexadecimal digits.",
            "Such as --serial B4AC0042");

    private static string Backslashes(string path)
    {
        var turned = path.Replace('/', '\\');
        return turned.StartsWith('\\') ? turned : '\\' + turned;
    }

    private static FileMarks Changed(VolumeFile file, string path, string[] changes, bool usual)
    {
        var marks = usual ? UsualMarks.Of(path, file.IsFolder) : file.Marks;
        foreach (var change in changes)
        {
            if (change.Length < 2 || change[0] is not ('+' or '-') || FileMarksText.TryParse(change[1..]) is not { } mark)
            {
                throw new WrongUsageException(
                    $"\"{change}\" changes no attribute.",
                    "They are hidden, system, readonly and archive, each with + or - before it.",
                    "Such as: keel files mark DISK \\Boot\\BCD -readonly");
            }

            marks = change[0] == '+' ? marks | mark : marks & ~mark;
        }

        return marks;
    }
}

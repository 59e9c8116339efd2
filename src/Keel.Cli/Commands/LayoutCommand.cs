using System.CommandLine;
using System.Globalization;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Requests;
using Keel.Core.Rescue;
using Keel.Core.Search;

namespace Keel.Cli.Commands;

/// <summary>keel layout show | rescue | type</summary>
internal static class LayoutCommand
{
    private static readonly Guid LinuxData = new("0FC63DAF-8483-4772-8E79-3D69D8477DE4");

    /// <summary>The words for types, with what they are in both kinds of table.</summary>
    private static readonly (string Word, byte Mbr, Guid Gpt)[] Types =
    [
        ("windows", PartitionTypes.Ntfs, PartitionTypes.GptBasicData),
        ("efi", PartitionTypes.EfiSystem, PartitionTypes.GptEfiSystem),
        ("recovery", 0x27, PartitionTypes.GptRecovery),
        ("linux", 0x83, LinuxData)
    ];

    public static Command Create(CommonOptions common) =>
        new("layout", "The partition table: how the disk is divided, lost volumes found again, types.")
        {
            Show(common),
            Rescue(common),
            Type(common)
        };

    private static Option<bool> ThoroughOption() => new("--thorough")
    {
        Description = "search every sector, not only the usual places"
    };

    private static Command Show(CommonOptions common)
    {
        var options = new MachineOptions(common);
        var thorough = ThoroughOption();
        var command = new Command("show", "The disk drawn to scale: partitions, free space, volumes that no table lists.")
        {
            thorough
        };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            using var machine = options.Open(parsed);
            var search = Search(machine.StartDisk, parsed.GetValue(thorough), output);
            var findings = Walk.Of(machine).Findings.Where(finding => finding.Link == Link.DiskLayout).ToList();
            new LayoutView(output).Show(machine.StartDisk, search, findings);
            return findings.Exists(finding => finding.Kind.Severity == Severity.Error) ? 1 : 0;
        });
        return command;
    }

    private static Command Rescue(CommonOptions common)
    {
        var writing = new WritingOptions(common);
        var thorough = ThoroughOption();
        var take = new Option<int?>("--reading")
        {
            Description = "the reading to be written, where there are several",
            HelpName = "N"
        };
        var uncertain = new Option<bool>("--uncertain") { Description = "list also volumes that too little speaks for" };
        var command = new Command("rescue", "List lost volumes again, or write a lost table anew from what stands on the disk.")
        {
            thorough,
            take,
            uncertain
        };
        writing.AddTo(command);
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            return writing.Run(parsed, machine =>
            {
                var disk = machine.StartDisk;
                RefuseVolume(disk);
                var search = Search(disk, parsed.GetValue(thorough), output);
                if (!parsed.GetValue(uncertain)) search = WithoutUncertain(search);
                var readings = TableRescue.Readings(disk, search, Guid.NewGuid);
                var reading = Choose(readings, parsed.GetValue(take), disk, output);
                RefuseNothing(reading, disk, search);
                return TableRequests.Rescue(machine, reading);
            });
        });
        return command;
    }

    private static Command Type(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var volume = new Option<int>("--volume")
        {
            Description = "the volume whose partition gets the type",
            HelpName = "N",
            Required = true
        }.CompletesVolumes();
        var type = new Argument<string>("type")
        {
            Description = "windows, efi, recovery or linux; or the type itself, two hexadecimal digits or a GUID"
        };
        var command = new Command("type", "Give a partition another type.") { type, volume };
        writing.AddTo(command);
        command.SetAction(parsed =>
        {
            var (mbr, gpt) = TypeOf(parsed.GetValue(type)!);
            return writing.Run(parsed, machine => TableRequests.SetType(machine, parsed.GetValue(volume), mbr, gpt));
        });
        return command;
    }

    private static (byte? Mbr, Guid? Gpt) TypeOf(string text)
    {
        var known = Array.Find(Types, type => type.Word.Equals(text, StringComparison.OrdinalIgnoreCase));
        if (known.Word is not null) return (known.Mbr, known.Gpt);
        if (Guid.TryParse(text, out var guid)) return (null, guid);
        var digits = text.StartsWith("0x", StringComparison.OrdinalIgnoreCase) ? text[2..] : text;
        if (digits.Length is 1 or 2
            && byte.TryParse(digits, NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var code)
            && code is not (0 or PartitionTypes.Extended or PartitionTypes.ExtendedLba or PartitionTypes.Protective))
        {
            return (code, null);
        }

        throw new WrongUsageException(
            $"\"{text}\" is no type that a volume can have.",
            "It is neither a word for one, nor two hexadecimal digits, nor a GUID.",
            $"Use {string.Join(", ", Types.Select(type => type.Word))}, or such as 07.");
    }

    private static SearchResult Search(MachineDisk disk, bool isThorough, Output output)
    {
        var progress = new ByteProgress("searching", output.Width);
        var searched = disk.ForSearch(state => progress.Tell(state.DoneBytes, state.TotalBytes));
        var listed = disk.Layout.Partitions.Select(partition => partition.Range).ToList();
        return isThorough ? VolumeSearch.Thorough(searched, listed) : VolumeSearch.Quick(searched, listed);
    }

    private static SearchResult WithoutUncertain(SearchResult search) =>
        search with { Volumes = [.. search.Volumes.Where(volume => volume.IsCertain)] };

    private static void RefuseVolume(MachineDisk disk)
    {
        if (!VolumeSearch.IsVolumeItself(disk.Overlay)) return;
        throw new RefusedException(
            "Nothing was written.",
            $"{disk.Path} is a volume from its first sector on: there is no room for a table.",
            "Name the whole disk, or an image of the whole disk, that this volume belongs to.");
    }

    private static void RefuseNothing(TableReading reading, MachineDisk disk, SearchResult search)
    {
        if (reading.New.Any()) return;
        throw new RefusedException(
            "Nothing was written.",
            disk.Layout.Partitions.Count > 0
                ? "Every volume that was found is listed already."
                : "No volume was found.",
            search.IsThorough
                ? "Every sector was searched. 'keel layout show' draws what there is."
                : $"Let every sector be searched: keel layout rescue {disk.Path} --thorough");
    }

    private static TableReading Choose(IReadOnlyList<TableReading> readings, int? wanted, MachineDisk disk, Output output)
    {
        if (wanted is { } number)
        {
            return number >= 1 && number <= readings.Count
                ? readings[number - 1]
                : throw new WrongUsageException(
                    $"There is no reading {number}.",
                    $"What stands on the disk can be read in {readings.Count} {(readings.Count == 1 ? "way" : "ways")}.",
                    "Leave --reading out to see them.");
        }

        if (readings.Count == 1) return readings[0];
        new LayoutView(output).ShowReadings(readings, disk.Overlay.SectorBytes);
        if (Output.CanAsk
            && new ChoiceMenu(output).Ask(
                "Which one is right?",
                [.. readings.Select((_, index) => $"reading {index + 1}")]) is { } chosen)
        {
            return readings[chosen];
        }

        throw new RefusedException(
            "Nothing was written.",
            "What stands on the disk can be read in several ways, and only you can tell the right one.",
            "Choose one of those listed above, with --reading N.");
    }
}

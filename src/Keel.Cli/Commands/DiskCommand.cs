using System.CommandLine;
using Keel.Cli.Views;
using Keel.Cli.Wording;
using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Cli.Commands;

/// <summary>keel disk health | image</summary>
internal static class DiskCommand
{
    public static Command Create(CommonOptions common) =>
        new("disk", "The disk itself: what it says of its own health, and an image of it while it still gives one.")
        {
            Health(common),
            Image(common)
        };

    private static Command Health(CommonOptions common)
    {
        var device = new Argument<string[]>("DEVICE")
        {
            Description = "a disk such as /dev/sda; left out, all of this computer",
            Arity = ArgumentArity.ZeroOrMore
        };
        var command = new Command("health", "What a disk says of its own health (SMART, NVMe), in a sentence.") { device };
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            var named = parsed.GetValue(device)!;
            var paths = named.Length > 0 ? named.Select(DeviceOf).ToList() : [.. ComputerDisks.All().Select(disk => disk.Path)];
            if (paths.Count == 0)
            {
                throw new UnreadableException(
                    "No disk of this computer is seen.",
                    "The system lists none.",
                    "Name one, such as /dev/sda.");
            }

            var found = output.Working("asking the disk", () => paths.ConvertAll(path => (path, Health: DiskPrograms.Ask(path))));
            new DiskHealthView(output).Show(found);
            return found.TrueForAll(one => one.Health.Condition is HealthCondition.Healthy or HealthCondition.Unknown) ? 0 : 1;
        });
        return command;
    }

    private static Command Image(CommonOptions common)
    {
        var device = new Argument<string>("DEVICE") { Description = "the failing disk" };
        var image = new Argument<string>("OUT")
        {
            Description = "the image, on another disk; OUT.map beside it says what was not read, and the same command goes on"
        };
        var command = new Command("image", "An image of a failing disk (through ddrescue), to go on with instead of it.")
        {
            device,
            image
        };
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            var from = DiskPath.Resolve(parsed.GetValue(device)!);
            var to = Path.GetFullPath(parsed.GetValue(image)!);
            RefuseUnfit(from, to);
            var isDone = DiskPrograms.Image(from, to, output.IsJson);
            return new DiskHealthView(output).Imaged(parsed.GetValue(image)!, to, MapFile.Beside(to), isDone);
        });
        return command;
    }

    private static string DeviceOf(string named)
    {
        var path = DiskPath.Resolve(named);
        return DiskPath.IsBlockDevice(path) ? path : throw new WrongUsageException(
            $"{named} is no device.",
            "An image says nothing of the disk that it was made of.",
            "Name the disk itself, such as /dev/sda.");
    }

    /// <summary>An image goes into a new file, or goes on in one whose map is beside it; never over a disk.</summary>
    private static void RefuseUnfit(string from, string to)
    {
        if (DiskPath.IsSame(from, to) || (Path.Exists(to) && DiskPath.IsBlockDevice(to)))
        {
            throw new RefusedException(
                "Nothing was written.",
                $"{to} is a disk, and an image is made into a file.",
                "Name a file on another disk, as in: keel disk image /dev/sda /mnt/sda.img");
        }

        if (Path.Exists(to) && MapFile.Beside(to) is null)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"{to} is there already, and no map beside it says that it is an image that was begun.",
                "Name another file.");
        }

        using var disk = DiskFile.Open(from);
        var folder = Path.GetDirectoryName(to)!;
        if (!Directory.Exists(folder))
            throw new WrongUsageException($"{folder} is not there.", "The image would be made in it.", "Make the folder first.");
        var free = new DriveInfo(folder).AvailableFreeSpace + (File.Exists(to) ? new FileInfo(to).Length : 0);
        if (free < disk.LengthBytes)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"The disk has {Sizes.Text(disk.LengthBytes)}, and {Sizes.Text(free)} are free in {folder}.",
                "Name a file on a disk with more room.");
        }
    }
}

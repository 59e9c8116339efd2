using System.CommandLine;
using System.Diagnostics;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Sticks;

namespace Keel.Cli.Commands;

/// <summary>keel stick write | check</summary>
internal static class StickCommand
{
    public static Command Create(CommonOptions common) =>
        new("stick", "Recovery media: write an image to a stick, and see whether it is good.") { Write(common), Check(common) };

    private static Command Write(CommonOptions common)
    {
        var image = new Argument<string>("IMAGE") { Description = "the image: keel's own, or another that starts from a stick" };
        var device = new Argument<string?>("DEVICE")
        {
            Description = "the stick, such as /dev/sdb; left out, the removable ones are listed",
            Arity = ArgumentArity.ZeroOrOne
        };
        var erase = new Option<string?>("--erase")
        {
            Description = "agree beforehand that all on it is lost: the name of the device, without its folder",
            HelpName = "NAME"
        };
        var without = new Option<bool>("--no-logbook") { Description = "no partition for logbook and reports" };
        var command = new Command("write", "Write an image to a stick, and read it back. What is there is lost for good.")
        {
            image,
            device,
            erase,
            without
        };
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            using var interrupts = new Interrupts(output);
            using var source = DiskFile.Open(parsed.GetValue(image)!);
            var medium = MediumImage.Require(source);
            var named = parsed.GetValue(device) ?? new StickChoice(output).Ask();
            var path = DiskPath.Resolve(named);
            output.Commands.Typed(named, path);
            StickChoice.RefuseUnfit(path, source);
            ShowLoss(output, source, medium, path);
            new StickChoice(output).RequireConsent(path, parsed.GetValue(erase));
            using var stick = DiskFile.OpenForWriting(path);
            var clock = Stopwatch.StartNew();
            var log = Carry(output, source, stick, !parsed.GetValue(without));
            output.Written = $"{named} was written.";
            new StickView(output).Written(source, stick, log, clock.Elapsed);
            return 0;
        });
        return command;
    }

    private static ByteRange? Carry(Output output, DiskFile source, DiskFile stick, bool withLog)
    {
        output.Written = "The stick is half-written: write it again.";
        return new StickWriting(source, stick) { Progress = Progress(output) }.Run(withLog);
    }

    private static void ShowLoss(Output output, DiskFile image, MediumImage medium, string path)
    {
        try
        {
            using var now = Machine.Open(path);
            new StickView(output).ShowLoss(image, medium, path, now);
        }
        catch (KeelException)
        {
            new StickView(output).ShowLoss(image, medium, path, now: null);
        }
    }

    private static Command Check(CommonOptions common)
    {
        var device = new Argument<string>("DEVICE") { Description = "the stick, or an image of it" };
        var image = new Option<string?>("--image")
        {
            Description = "what it should hold; else it is held against the checksum that it carries",
            HelpName = "FILE"
        };
        var command = new Command("check", "Whether a recovery medium is whole, and starts on BIOS and UEFI.") { device, image };
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            using var stick = DiskFile.Open(parsed.GetValue(device)!);
            output.Commands.Typed(parsed.GetValue(device)!, stick.Path);
            using var source = parsed.GetValue(image) is { } path ? DiskFile.Open(path) : null;
            var report = new StickCheck(stick) { Progress = Progress(output) }.Run(source);
            new StickView(output).Checked(stick, report);
            return report.IsGood ? 0 : 1;
        });
        return command;
    }

    private static Action<StickStage, long, long> Progress(Output output)
    {
        var bars = new Dictionary<StickStage, ByteProgress>();
        return (stage, done, all) =>
        {
            if (!bars.TryGetValue(stage, out var bar))
            {
                bar = new ByteProgress(stage.ToString().ToLowerInvariant(), output.Width);
                bars[stage] = bar;
            }

            bar.Tell(done, all);
        };
    }
}

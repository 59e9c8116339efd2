using System.CommandLine;
using Keel.Cli.Views;
using Keel.Cli.Wording;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Logbook;

namespace Keel.Cli.Commands;

/// <summary>keel logbook [DISK], keel logbook finish [DISK]</summary>
internal static class LogbookCommand
{
    public static Command Create(CommonOptions common)
    {
        var disk = new Argument<string?>("DISK")
        {
            Description = "only the repairs of this disk",
            Arity = ArgumentArity.ZeroOrOne
        };
        var command = new Command("logbook", "The repairs done so far.") { disk, Finish(common) };
        command.SetAction(parsed =>
        {
            var logbook = common.OpenLogbook(parsed);
            var contents = logbook.Read();
            var view = new LogbookView(common.OutputOf(parsed));
            if (parsed.GetValue(disk) is { } path) ShowAbout(view, logbook, contents, path);
            else view.Show(logbook, contents, twins: []);
            return 0;
        });
        return command;
    }

    private static void ShowAbout(LogbookView view, RepairLogbook logbook, LogbookContents contents, string path)
    {
        using var target = RecordTarget.Open(path, [], DiskTerms.Usual);
        var about = target.IsFolder
            ? [.. contents.Records.Where(record => record.Document.Variables?.Folder == target.Path)]
            : RecordSearch.About(contents, target.Disks[0]);
        var twins = target.IsFolder ? [] : RecordSearch.AboutTwins(contents, target.Disks[0]);
        view.Show(logbook, contents with { Records = about }, twins);
    }

    private static Command Finish(CommonOptions common)
    {
        var disk = CommonOptions.MayBeLeftOut();
        var with = CommonOptions.With();
        var variables = CommonOptions.Variables();
        var yes = CommonOptions.Yes();
        var elsewhere = UndoCommand.FromElsewhere();
        var command = new Command("finish", "Complete a repair, or an undo, that was cut off.")
        {
            disk,
            with,
            variables,
            yes,
            elsewhere
        };
        var opening = new DiskOptions();
        opening.AddTo(command, withInside: false);
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            var disks = new MachineOpening(output).DisksOf(parsed.GetValue(disk));
            string[] others = [.. disks.Skip(1), .. parsed.GetValue(with)!];
            using var target = RecordTarget.Open(disks[0], others, opening.Of(parsed, output));
            output.Commands.Typed(disks[0], target.Path);
            var logbook = common.OpenLogbook(parsed);
            var contents = logbook.Read();
            var record = (target.IsFolder
                ? RecordSearch.Pending(contents, target.Path)
                : RecordSearch.Pending(contents, target.Disks[0])?.Record)
                ?? throw new WrongUsageException(
                    $"There is nothing to finish on {output.Commands.AsTyped(target.Path)}.",
                    "No repair of this disk was cut off.",
                    "Run 'keel logbook' for all repairs.");
            var work = target.Work(record, RepairRecord.IsBetween, alone: false, parsed.GetValue(variables), output.Commands);
            new RecordTrust(output, logbook) { Yes = parsed.GetValue(yes), EvenFromElsewhere = parsed.GetValue(elsewhere) }
                .Require(target, work);
            var opener = new DiskOpening(target.Terms);
            new Commit(logbook, opener.OpenForWriting, TimeProvider.System, ProgramVersion.Text).Finish(work);
            output.Written = $"Repair {record.Document.Id} is complete.";
            new LogbookView(output).Finished(work);
            return 0;
        });
        return command;
    }
}

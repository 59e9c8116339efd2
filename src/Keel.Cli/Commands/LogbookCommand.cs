using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Logbook;

namespace Keel.Cli.Commands;

/// <summary>keel logbook [DISK], keel logbook finish DISK</summary>
internal static class LogbookCommand
{
    public static Command Create(CommonOptions common)
    {
        var disk = new Argument<string?>("DISK") { Description = "only the repairs of this disk", Arity = ArgumentArity.ZeroOrOne };
        var command = new Command("logbook", "The repairs done so far.") { disk, Finish(common) };
        command.SetAction(parsed =>
        {
            var logbook = common.OpenLogbook(parsed);
            var path = parsed.GetValue(disk);
            new LogbookView(Screen.For(parsed, common)).Show(logbook, path is null ? logbook.Records() : DiskRecords.Of(DiskRecords.Resolve(path), logbook));
            return 0;
        });
        return command;
    }

    private static Command Finish(CommonOptions common)
    {
        var disk = CommonOptions.Disk();
        var anyway = UndoCommand.EvenIfChanged();
        var command = new Command("finish", "Complete a repair, or an undo, that was cut off.") { disk, anyway };
        command.SetAction(parsed =>
        {
            var path = DiskRecords.Resolve(parsed.GetValue(disk)!);
            var logbook = common.OpenLogbook(parsed);
            var record = DiskRecords.Of(path, logbook).LastOrDefault(candidate => candidate.IsPending)
                ?? throw new WrongUsageException($"There is nothing to finish on {path}.", "No repair of this disk was cut off.", "Run 'keel logbook' for all repairs.");
            new Commit(logbook, Commit.OpenDiskAs(record, path), TimeProvider.System, ProgramVersion.Text).Finish(record, parsed.GetValue(anyway));
            new LogbookView(Screen.For(parsed, common)).Done(record, $"Repair {record.Document.Id} is complete: {(record.State == RecordState.Done ? "written" : "taken back")}.");
            return 0;
        });
        return command;
    }
}

using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Logbook;

namespace Keel.Cli.Commands;

/// <summary>keel undo DISK</summary>
internal static class UndoCommand
{
    public static Command Create(CommonOptions common)
    {
        var disk = CommonOptions.Disk();
        var yes = CommonOptions.Yes();
        var preview = CommonOptions.Preview();
        var anyway = EvenIfChanged();
        var command = new Command("undo", "Take the last repair of a disk back, to the byte.") { disk, yes, preview, anyway };
        command.SetAction(parsed =>
        {
            var screen = Screen.For(parsed, common);
            var path = DiskRecords.Resolve(parsed.GetValue(disk)!);
            var record = DiskRecords.Of(path, common.OpenLogbook(parsed)).LastOrDefault(candidate => candidate.State != RecordState.Undone)
                ?? throw new WrongUsageException($"There is nothing to undo on {path}.", $"The logbook in {common.OpenLogbook(parsed).Path} has no repair of this disk that still stands.", "Run 'keel logbook' for all repairs; name another logbook with --logbook.");
            var view = new LogbookView(screen);
            if (!screen.IsJson || parsed.GetValue(preview)) view.ShowOne(record, "Would put back what this repair changed:");
            if (parsed.GetValue(preview)) return 0;
            var consent = new Consent(screen, parsed.GetValue(yes));
            consent.Agree("Take it back?", () => consent.ShowRanges(record.Document.Disks.Select(one => (one.Path, (IReadOnlyList<ByteRange>)[.. one.Ranges.Select(range => new ByteRange(range.Start, range.Length))]))));
            new Commit(common.OpenLogbook(parsed), Commit.OpenDiskAs(record, path), TimeProvider.System, ProgramVersion.Text).Undo(record, parsed.GetValue(anyway));
            view.Done(record, $"{(Directory.Exists(path) ? "Every variable in" : "Every byte of")} {path} is back as it was before repair {record.Document.Id}.");
            return 0;
        });
        return command;
    }

    internal static Option<bool> EvenIfChanged() => new("--even-if-changed") { Description = "overwrite what other programs have written there since" };
}

using Keel.Cli.Terminal;
using Keel.Core.Errors;
using Keel.Core.Logbook;

namespace Keel.Cli.Commands;

/// <summary>Which repair is to be taken back, and whether that is beyond doubt.</summary>
internal sealed class UndoChoice(Output output, RepairLogbook logbook, RecordTarget target)
{
    /// <summary>The id that was named; null for none.</summary>
    public string? Record { get; init; }

    public bool EvenIfChanged { get; init; }

    /// <exception cref="WrongUsageException">There is nothing to take back.</exception>
    /// <exception cref="RefusedException">Something else has written over the repair since, or its disk is another
    ///     one.</exception>
    public RepairRecord Choose()
    {
        var contents = logbook.Read();
        foreach (var unusable in contents.Unusable)
        {
            output.Message($"Note: record {unusable.Id} in the logbook "
                + $"{(unusable.IsNewer ? "is of a newer keel" : "is damaged")}: {unusable.Why}.");
        }

        if (Record is not null) return Named(contents, Record);
        return target.IsFolder ? NewestOfVariables(contents) : Newest(RecordSearch.Newest(contents, target.Disks[0]));
    }

    /// <summary>
    /// A disk that may be another one is only written where the technician says so, by an answer or by naming the record.
    /// </summary>
    public void AskWhereInDoubt(TakeBack work, bool yes)
    {
        if (Record is not null || !work.Fits.Any(fit => fit.IsQuestionable)) return;
        if (yes)
        {
            throw new RefusedException(
                "Nothing was written: it is not sure that this is the disk of that repair.",
                "It has another file, path or identity than then, though what the repair wrote stands on it.",
                "If it is the right one, name the repair:")
            { Commands = [output.Commands.Undo(target.Path, work.Record.Document.Id)] };
        }

        new Consent(output, yes: false).Agree("It is not sure that this is the same disk. Is it?", () => { });
    }

    private RepairRecord Named(LogbookContents contents, string id)
    {
        var named = contents.Records.Where(record => record.Document.Id.StartsWith(id, StringComparison.Ordinal)).ToList();
        if (named is not [var one])
        {
            throw new WrongUsageException(
                named.Count == 0
                    ? $"The logbook has no record {id} that can be used."
                    : $"{named.Count} records begin with {id}.",
                $"It has {string.Join(", ", contents.Records.Select(record => record.Document.Id).DefaultIfEmpty("none"))}.",
                "Run 'keel logbook' for all repairs.");
        }

        if (one.State == RecordState.Undone)
        {
            throw new WrongUsageException(
                $"Repair {one.Document.Id} is taken back already.",
                "Nothing of it stands.",
                "Run 'keel logbook' for all repairs.");
        }

        if (!target.IsFolder && RecordSearch.Of(one, target.Disks[0]) is null)
        {
            throw new WrongUsageException(
                $"Repair {one.Document.Id} is not one of {target.Path}.",
                "It was made on a disk of another size, or with another serial number.",
                "Run 'keel logbook' for all repairs.");
        }

        return one;
    }

    private RepairRecord NewestOfVariables(LogbookContents contents) =>
        contents.Records.LastOrDefault(record =>
            record.VariablesPart is { } part
                && record.Document.Variables!.Folder == target.Path
                && record.Parts[part] != RecordState.Undone)
        ?? throw Nothing();

    private RepairRecord Newest(UndoSearch search)
    {
        if (EvenIfChanged && search.Overwritten is { } forced) return forced.Record;
        if (search.Chosen is { } chosen)
        {
            if (search.Overwritten is { } newer)
            {
                output.Message($"Note: repair {newer.Record.Document.Id} is newer, and something else has written over it "
                    + "since; with --even-if-changed that one is taken back.");
            }

            return chosen.Record;
        }

        if (search.Overwritten is { } over) return over.Record;  // the check that follows says what was written, and where
        if (search.Elsewhere is { } other)
        {
            throw new RefusedException(
                $"There is nothing to undo on {target.Path}.",
                $"Repair {other.Record.Document.Id} was made on {other.Recorded.Path}, which is still there; this is another "
                    + "disk, a copy perhaps.",
                "Name that one; or, if this copy is to be taken back by itself, the repair:")
            { Commands = [output.Commands.Undo(target.Path, other.Record.Document.Id)] };
        }

        throw Nothing();
    }

    private WrongUsageException Nothing() => new(
        $"There is nothing to undo on {target.Path}.",
        $"The logbook in {logbook.Path} has no repair whose bytes stand on this disk.",
        "Run 'keel logbook' for all repairs; name another logbook with --logbook.");
}

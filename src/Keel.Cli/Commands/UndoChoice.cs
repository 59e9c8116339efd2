using Keel.Cli.Terminal;
using Keel.Core.Errors;
using Keel.Core.Logbook;

namespace Keel.Cli.Commands;

/// <summary>Which repair is to be taken back, and whether that is beyond doubt.</summary>
internal sealed class UndoChoice(Output output, RepairLogbook logbook, RecordTarget target)
{
    /// <summary>The id that was named; null for none.</summary>
    public string? Record { get; init; }

    /// <summary>The number in the list that was named; null for none.</summary>
    public int? Number { get; init; }

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
        if (!target.IsFolder && RecordSearch.Pending(contents, target.Disks[0]) is null)
        {
            var list = RecordSearch.NotTakenBack(contents, target.Disks[0]);
            if (Number is { } number) return Numbered(list, number);
            if (list.Count > 1) ShowList(list);
        }

        return target.IsFolder ? NewestOfVariables(contents) : Newest(RecordSearch.Newest(contents, target.Disks[0]));
    }

    /// <summary>
    /// A disk that may be another one is only written where the technician says so, by an answer or by naming the record.
    /// </summary>
    public void AskWhereInDoubt(UndoTargets work, bool yes)
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

    private void ShowList(IReadOnlyList<RecordFit> list)
    {
        output.Message($"Repairs that were not taken back: {list.Count}, the newest first.");
        foreach (var (fit, index) in list.Select((fit, index) => (fit, index)))
        {
            var document = fit.Record.Document;
            var steps = string.Join(" ", document.Steps.Select(step => step.Summary));
            output.Message($"  {index + 1}  {document.Written.UtcDateTime:yyyy-MM-dd HH:mm} UTC  {steps}");
        }

        output.Message($"For another than 1: keel undo {output.Commands.AsTyped(target.Path)} NUMBER");
    }

    private RepairRecord Numbered(IReadOnlyList<RecordFit> list, int number)
    {
        if (number < 1 || number > list.Count)
        {
            throw new WrongUsageException(
                $"There is no repair {number} to take back on {output.Commands.AsTyped(target.Path)}.",
                list.Count == 0 ? "The logbook has none of this disk." : $"There are {list.Count}, the newest is 1.",
                "'keel undo' without a number lists them.");
        }

        var chosen = list[number - 1];
        var later = Enumerable.Range(1, number - 1).Where(other => list[other - 1].Overlaps(chosen)).ToList();
        if (later.Count == 0) return chosen.Record;
        throw new RefusedException(
            $"Repair {number} can't be taken back yet, and nothing was written.",
            $"Later ones wrote to the same places: {string.Join(", ", later)}.",
            "Take those back first, the newest before the others.");
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
                $"Repair {one.Document.Id} is not one of {output.Commands.AsTyped(target.Path)}.",
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
                $"There is nothing to undo on {output.Commands.AsTyped(target.Path)}.",
                $"Repair {other.Record.Document.Id} was made on {other.Recorded.Path}, which is still there; this is another "
                    + "disk, a copy perhaps.",
                "Name that one; or, if this copy is to be taken back by itself, the repair:")
            { Commands = [output.Commands.Undo(target.Path, other.Record.Document.Id)] };
        }

        throw Nothing();
    }

    private WrongUsageException Nothing() => new(
        $"There is nothing to undo on {output.Commands.AsTyped(target.Path)}.",
        $"The logbook in {logbook.Path} has no repair whose bytes stand on this disk.",
        "Run 'keel logbook' for all repairs; name another logbook with --logbook.");
}

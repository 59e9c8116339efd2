using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Cli.Views.Reports;

/// <summary>Puts a report together: what was found, what was written, and what remains.</summary>
/// <param name="commands">How commands are typed.</param>
/// <param name="logbook">The repairs done so far.</param>
/// <param name="clock">What time it is.</param>
internal sealed class ReportMaking(CommandWords commands, RepairLogbook logbook, TimeProvider clock)
{
    private const int HistoryShown = 20;

    /// <summary>The report of a walk, and of a repair after it.</summary>
    /// <param name="diagnosis">What was found.</param>
    /// <param name="after">What was found once it was mended; null where nothing was written.</param>
    /// <param name="ticket">The number of the service ticket; null for none.</param>
    public ReportDocument Of(Diagnosis diagnosis, Diagnosis? after, string? ticket)
    {
        var machine = diagnosis.Machine;
        var repairs = Repairs(after?.Machine ?? machine);
        var state = after ?? diagnosis;
        return new ReportDocument(
            clock.GetUtcNow(),
            ProgramVersion.Text,
            ticket,
            ReportWords.Verdict(diagnosis, after, HasStanding(repairs)),
            [.. ReportWords.ForCustomer(diagnosis, after, HasStanding(repairs))],
            Survey(state.Machine),
            ToDocument.Diagnose(diagnosis),
            after is null ? null : ToDocument.Diagnose(after),
            diagnosis.Noted is null ? Code(diagnosis) : null,
            diagnosis.Shown is { } shown ? Code(shown.Id, shown) : null,
            [.. Chain(diagnosis, after)],
            repairs,
            [.. History(diagnosis)],
            [.. ReportWords.Remaining(state)],
            commands.Undo(machine),
            commands.Mend(machine));
    }

    /// <summary>The disks as they are, not as the plan would have them.</summary>
    private static SurveyDocument Survey(Machine machine)
    {
        using var untouched = machine.OpenAgain();
        return ToDocument.Survey(untouched, cutOff: null);
    }

    private static bool HasStanding(IReadOnlyList<ReportRepairDocument> repairs) => repairs.Any(repair => repair.State == "done");

    /// <summary>The links as they were walked, with how they stand now.</summary>
    private static IEnumerable<ReportLinkDocument> Chain(Diagnosis diagnosis, Diagnosis? after)
    {
        var stopped = diagnosis.Plan.Before.StopsAt;
        foreach (var link in diagnosis.Plan.Before.Links)
        {
            var now = after?.Plan.Before.Links.FirstOrDefault(one => one.Link == link.Link);
            yield return new ReportLinkDocument(
                link.Link.Id(),
                ReportWords.PartOf(link.Link),
                ToDocument.Word(link.Status),
                Words.Of(link.Detail),
                now is null ? null : ToDocument.Word(now.Status),
                now is null ? null : Words.Of(now.Detail),
                link.Link == stopped,
                now is not null && link.Status != LinkStatus.Sound && now.Status == LinkStatus.Sound);
        }
    }

    private static ReportCodeDocument? Code(Diagnosis diagnosis) => diagnosis.Reported is { } reported
        ? reported.Errors is [var error, ..]
            ? Code(reported.Input, error)
            : new ReportCodeDocument(reported.Input, null, null, null, [])
        : null;

    private static ReportCodeDocument Code(string input, Core.Codes.StartupError error) => new(
        input,
        error.Id,
        error.Status.Length > 0 ? error.Status : null,
        error.Meaning,
        [.. error.Causes.Select(cause => cause.Cause)]);

    private IReadOnlyList<ReportRepairDocument> Repairs(Machine machine)
    {
        var contents = logbook.Read();
        return
        [
            .. RecordSearch.About(contents, DiskSeen.Of(machine.StartDisk)).Select(record => new ReportRepairDocument(
                record.Document.Id,
                record.Document.Written,
                ToDocument.Word(record.State),
                record.Document.Program,
                record.Document.TakesBack,
                [.. record.Document.Steps.Select(step => new RecordedStepDocument(step.Link, step.Finding, step.Summary))],
                [.. record.Document.Disks.Select(disk => new RecordedDiskDocument(
                    disk.Path,
                    disk.IdentityAfter,
                    disk.LengthBytes,
                    disk.Ranges.Count,
                    disk.Ranges.Sum(range => (long)range.Length)))]))
        ];
    }

    private static IEnumerable<ReportMomentDocument> History(Diagnosis diagnosis)
    {
        if (diagnosis.Memory is not { } memory) yield break;
        foreach (var item in memory.History.Items.Take(HistoryShown))
        {
            yield return new ReportMomentDocument(
                item.Time is { } time ? memory.History.Zone.Local(time) : null,
                Words.Of(item.Says),
                item.Source);
        }
    }
}

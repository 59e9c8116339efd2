using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Mending;

namespace Keel.Cli.Views;

/// <summary>Shows a diagnosis: the answer first, then the chain, the findings, and what would mend them.</summary>
internal sealed class DiagnoseView(Output output)
{
    private const string ReadErrorsId = "disk-read-errors";

    /// <param name="cutOff">The repair of the machine that was cut off, by its id; it has been told.</param>
    public void Show(Diagnosis diagnosis, string? cutOff = null)
    {
        if (output.IsJson)
        {
            KeelJson.Print(ToDocument.Diagnose(diagnosis, cutOff), KeelJson.Default.DiagnoseDocument);
            return;
        }

        ShowReadErrors(diagnosis);
        ShowAnswer(diagnosis);
        ShowReported(diagnosis);
        ShowNext(diagnosis);
        ShowChain(diagnosis.Plan.Before);
        ShowFindings(diagnosis);
        ShowInstallations(diagnosis);
        ShowPlan(diagnosis.Plan);
        ShowList(
            "The machine's own traces (history, not proof)",
            [.. diagnosis.History.Select(trace =>
                $"{(trace.Written is { } time ? $"{time:yyyy-MM-dd HH:mm}" : "undated")} {trace.Path}: {Words.Of(trace.Says)}")]);
        ShowList("What remains, beyond keel", diagnosis.Beyond);
        if (diagnosis.Plan.Steps.Count > 0) output.Paragraph("Next:", output.Commands.Mend(diagnosis.Machine), style: "bold");
    }

    /// <summary>A disk that fails comes before everything that was found on it.</summary>
    public void ShowReadErrors(Diagnosis diagnosis)
    {
        foreach (var finding in diagnosis.Plan.Findings.Where(finding => finding.Id == ReadErrorsId))
        {
            output.Paragraph(
                $"READ ERRORS: {Words.Of(finding.Seen)}. Make an image of the disk before anything else.",
                style: "red",
                hang: 2);
        }
    }

    /// <summary>What to type next, near the top: a console may show no more than that.</summary>
    private void ShowNext(Diagnosis diagnosis)
    {
        var (steps, after) = (diagnosis.Plan.Steps.Count, diagnosis.Plan.After.Verdict);
        var words = steps == 1 ? "one step" : $"{steps} steps";
        if (steps > 0)
        {
            output.Paragraph(
                $"{(after == Verdict.Sound ? $"keel can mend it in {words}" : $"keel can do {words} of it")}. Next:",
                output.Commands.Mend(diagnosis.Machine),
                style: "bold");
        }
        else if (diagnosis.Plan.Refused is [var refusal, ..])
            output.Paragraph($"keel can't mend this. Next: {Words.Todo(refusal.Why)}", style: "bold", hang: 2);
    }

    private void ShowList(string heading, IReadOnlyList<string> lines)
    {
        if (lines.Count == 0) return;
        output.Heading(heading);
        foreach (var line in lines) output.Paragraph(line, indent: 2, hang: 2);
    }

    /// <summary>The first line: whether it starts, and if not, where it stops.</summary>
    public void ShowAnswer(Diagnosis diagnosis)
    {
        var walk = diagnosis.Plan.Before;
        switch (walk.Verdict)
        {
            case Verdict.Sound:
                output.Paragraph("SOUND: the boot chain is whole, as far as keel walks it.", style: "green");
                break;
            case Verdict.Doubtful:
                output.Paragraph(
                    "DOUBTFUL: nothing is plainly broken, but not everything is right or could be judged.",
                    style: "yellow");
                break;
            default:
                var worst =
                    walk.Findings.First(finding => finding.Link == walk.StopsAt && finding.Kind.Severity == Severity.Error);
                output.Paragraph($"BROKEN at {worst.Link.Id()}: {worst.Kind.What}", style: "red");
                if (diagnosis.Shown is { } shown) output.Paragraph($"This disk would show {ExplainView.Name(shown)}.");
                break;
        }
    }

    /// <summary>The chain, a line a link.</summary>
    public void ShowChain(Walk walk)
    {
        output.Heading($"The chain ({SurveyView.FirmwareName(walk.Firmware)})");
        var shown = walk.Links.Count - walk.Links.Reverse().TakeWhile(link => link.Status == LinkStatus.Unreached).Count();
        var rows = walk.Links.Take(shown).Select(link => new (string, string?)[]
        {
            (link.Link.Id(), null),
            (StatusWord(link.Status), StatusStyle(link.Status)),
            (
                link.Status == LinkStatus.Sound ? Short(Words.Of(link.Detail)) : Words.Of(link.Detail),
                link.Status == LinkStatus.Unreached ? "grey" : null)
        }).ToList();
        if (shown < walk.Links.Count)
        {
            rows.Add([
                ("then", "grey"),
                ("unreached", "grey"),
                (string.Join(", ", walk.Links.Skip(shown).Select(link => link.Link.Id())), "grey")
            ]);
        }

        output.Columns(rows);
    }

    /// <summary>What is sound gets one line.</summary>
    private string Short(string detail)
    {
        const int columnsBefore = 29, below = 4;
        var room = output.HasRoomFor(columnsBefore) ? output.Width - columnsBefore : output.Width - below;
        return detail.Length <= room ? detail : detail[..(room - 3)].TrimEnd() + "...";
    }

    /// <summary>The steps, and what is left as it is.</summary>
    public void ShowPlan(Plan plan, bool withInstallations = false)
    {
        if (plan.Steps.Count > 0)
        {
            output.Heading(
                $"Plan, tried out in memory; the chain would then be {ToDocument.Word(plan.After.Verdict)}",
                isFirst: plan.IsRequest);
            foreach (var (step, number) in plan.Steps.Select((step, index) => (step, index + 1)))
            {
                output.Paragraph($"{number}. {step.Link.Id()}: {Words.Of(step.Summary)}", indent: 2, hang: 3);
                foreach (var detail in step.Details.Where(detail => withInstallations || detail.Kind == StepDetailKind.Change))
                {
                    output.Paragraph(
                        Words.Of(detail.Says),
                        indent: detail.Kind == StepDetailKind.Installation ? 7 : 5,
                        style: "grey",
                        hang: 2);
                }
            }
        }

        if (plan.Refused.Count == 0) return;
        output.Heading("Left as it is");
        foreach (var refusal in plan.Refused)
        {
            output.Paragraph($"{refusal.FindingId}: {Words.Of(refusal.Why)}", indent: 2, hang: 2);
            output.Paragraph(Words.Todo(refusal.Why), indent: 4);
        }
    }

    private static string StatusWord(LinkStatus status) =>
        status is LinkStatus.Broken or LinkStatus.Doubtful ? status.ToString().ToUpperInvariant() : ToDocument.Word(status);

    private static string StatusStyle(LinkStatus status) => status switch
    {
        LinkStatus.Sound => "green",
        LinkStatus.Doubtful => "yellow",
        LinkStatus.Broken => "red",
        _ => "grey"
    };

    private void ShowReported(Diagnosis diagnosis)
    {
        if (diagnosis.Reported is not { } reported) return;
        if (reported.Errors.Count == 0)
        {
            output.Paragraph($"You reported \"{reported.Input}\", which is not known here.", style: "yellow");
            return;
        }

        var name = ExplainView.Name(reported.Errors[0]) + (reported.Guessed ? " (guessed)" : "");
        var finds = string.Join(" and ", diagnosis.ExplainedBy.Select(finding => finding.Id).Distinct());
        output.Paragraph(diagnosis.Fit switch
        {
            CodeFit.Fits => $"You reported {name}: it fits, {finds} leads to it.",
            CodeFit.FitsAnother
                => $"You reported {name}: it fits {finds}, which comes after the place where the start stops now.",
            _
                => $"You reported {name}: it does not fit, nothing on "
                    + $"{(diagnosis.Machine.Disks.Count == 1 ? "this disk" : "these disks")} leads to it. Look elsewhere:"
        });
        foreach (var advice in diagnosis.LookElsewhere) output.Paragraph($"- {advice}", indent: 2, hang: 2);
    }

    private void ShowFindings(Diagnosis diagnosis)
    {
        if (diagnosis.Plan.Findings.Count == 0) return;
        output.Heading("Findings");
        output.Columns([.. diagnosis.Plan.Findings.Select(finding => new (string, string?)[]
        {
            (finding.Id, null),
            (ToDocument.Word(finding.Kind.Severity), finding.Kind.Severity == Severity.Error ? "red" : "yellow"),
            (Words.Of(finding.Seen), null)
        })]);
    }

    private void ShowInstallations(Diagnosis diagnosis)
    {
        if (diagnosis.Plan.Findings.Count == 0) output.Line();
        output.Paragraph($"Installations found: {diagnosis.Installations.Count}", style: "bold");
        foreach (var (found, listed) in diagnosis.Installations)
            output.Paragraph(
                $"{found}{(found.Build > 0 ? $", build {found.Build}" : "")} - "
                    + $"{(listed ? "already listed" : "not listed in the store")}",
                indent: 2,
                hang: 2);
    }
}

using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Core.Chain;
using Keel.Core.Mending;

namespace Keel.Cli.Views;

/// <summary>Shows a diagnosis: the answer first, then the chain, the findings, and what would mend them.</summary>
internal sealed class DiagnoseView(Screen screen)
{
    public void Show(Diagnosis diagnosis)
    {
        if (screen.IsJson)
        {
            KeelJson.Print(ToDocument.Diagnose(diagnosis), KeelJson.Default.DiagnoseDocument);
            return;
        }

        ShowAnswer(diagnosis);
        ShowReported(diagnosis);
        ShowChain(diagnosis.Plan.Before);
        ShowFindings(diagnosis);
        ShowInstallations(diagnosis);
        ShowPlan(diagnosis.Plan);
        if (diagnosis.Plan.Steps.Count > 0) screen.Paragraph($"Next: keel mend {diagnosis.Machine.StartDisk.Path}", style: "bold");
    }

    /// <summary>The first line: whether it starts, and if not, where it stops.</summary>
    public void ShowAnswer(Diagnosis diagnosis)
    {
        var walk = diagnosis.Plan.Before;
        switch (walk.Verdict)
        {
            case Verdict.Sound:
                screen.Paragraph("SOUND: the boot chain is whole, as far as keel walks it.", style: "green");
                break;
            case Verdict.Doubtful:
                screen.Paragraph("DOUBTFUL: nothing is plainly broken, but not everything is right or could be judged.", style: "yellow");
                break;
            default:
                var worst = walk.Findings.First(finding => finding.Link == walk.StopsAt && finding.Kind.Severity == Severity.Error);
                screen.Paragraph($"BROKEN at {worst.Link.Id()}: {worst.Kind.What}", style: "red");
                if (diagnosis.Screen is { } shown) screen.Paragraph($"This disk would show {ExplainView.Name(shown)}.");
                break;
        }
    }

    /// <summary>The chain, a line a link.</summary>
    public void ShowChain(Walk walk)
    {
        screen.Heading($"The chain ({SurveyView.FirmwareName(walk.Firmware)})");
        screen.Columns([.. walk.Links.Select(link => new (string, string?)[]
        {
            (link.Link.Id(), null), (StatusWord(link.Status), StatusStyle(link.Status)), (link.Detail, link.Status == LinkStatus.Unreached ? "grey" : null)
        })]);
    }

    /// <summary>The steps, and what is left as it is.</summary>
    public void ShowPlan(Plan plan, bool withInstallations = false)
    {
        if (plan.Steps.Count > 0)
        {
            screen.Heading($"Plan, tried out in memory; the chain would then be {ToDocument.Word(plan.After.Verdict)}", isFirst: plan.IsRequest);
            foreach (var (step, number) in plan.Steps.Select((step, index) => (step, index + 1)))
            {
                screen.Paragraph($"{number}. {step.Link.Id()}: {step.Summary}", indent: 2, hang: 3);
                foreach (var detail in step.Details.Where(detail => withInstallations || !IsInstallationLine(detail))) screen.Paragraph(detail.TrimStart(), indent: 5 + detail.Length - detail.TrimStart().Length, style: "grey", hang: 2);
            }
        }

        if (plan.Refused.Count == 0) return;
        screen.Heading("Left as it is");
        foreach (var refusal in plan.Refused)
        {
            screen.Paragraph($"{refusal.FindingId}: {refusal.Why}", indent: 2, hang: 2);
            screen.Paragraph(refusal.Todo, indent: 4);
        }
    }

    private static bool IsInstallationLine(string detail) => detail.StartsWith("Installations found", StringComparison.Ordinal) || detail.StartsWith("  ", StringComparison.Ordinal);

    private static string StatusWord(LinkStatus status) => status is LinkStatus.Broken or LinkStatus.Doubtful ? status.ToString().ToUpperInvariant() : ToDocument.Word(status);

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
            screen.Paragraph($"You reported \"{reported.Input}\", which is not known here.", style: "yellow");
            return;
        }

        var name = ExplainView.Name(reported.Errors[0]) + (reported.Guessed ? " (guessed)" : "");
        screen.Paragraph(diagnosis.ExplainedBy.Count > 0
            ? $"You reported {name}: it fits, {string.Join(" and ", diagnosis.ExplainedBy.Select(finding => finding.Id).Distinct())} leads to it."
            : diagnosis.Plan.Before.Verdict == Verdict.Sound
                ? $"You reported {name}: nothing on this disk leads to it. Look at the firmware's start order, other disks, and the hardware."
                : $"You reported {name}: nothing found here leads to it, so it may come from another disk or from the hardware.");
    }

    private void ShowFindings(Diagnosis diagnosis)
    {
        if (diagnosis.Plan.Findings.Count == 0) return;
        screen.Heading("Findings");
        screen.Columns([.. diagnosis.Plan.Findings.Select(finding => new (string, string?)[]
        {
            (finding.Id, null), (ToDocument.Word(finding.Kind.Severity), finding.Kind.Severity == Severity.Error ? "red" : "yellow"), (finding.Evidence, null)
        })]);
    }

    private void ShowInstallations(Diagnosis diagnosis)
    {
        if (diagnosis.Plan.Findings.Count == 0) screen.Line();
        screen.Paragraph($"Installations found: {diagnosis.Installations.Count}", style: "bold");
        foreach (var (found, listed) in diagnosis.Installations)
            screen.Paragraph($"{found}{(found.Build > 0 ? $", build {found.Build}" : "")} - {(listed ? "already listed" : "not listed in the store")}", indent: 2, hang: 2);
    }
}

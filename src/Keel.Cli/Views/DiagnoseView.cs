using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Windows;

namespace Keel.Cli.Views;

/// <summary>
/// Shows a diagnosis: the answer first, then where the chain is not sound, what would mend it, and at the end what to type. A
/// console of 25 lines shows it whole in the usual case.
/// </summary>
/// <param name="all">Every link by itself, and every finding.</param>
internal sealed class DiagnoseView(Output output, bool all = false)
{
    /// <summary>The finding of a volume that a key would open.</summary>
    public const string LockedId = "volume-encrypted";

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
        ShowDiskTrouble(diagnosis);
        ShowReported(diagnosis);
        ShowChain(diagnosis.Plan.Before, diagnosis);
        ShowInstallations(diagnosis);
        ShowPlan(diagnosis.Plan);
        ShowPrompts(diagnosis);
        ShowMemory(diagnosis);
        ShowList("What remains, beyond keel", diagnosis.Beyond);
        ShowNext(diagnosis);
    }

    /// <summary>What the plan means for volumes whose key the TPM keeps.</summary>
    public void ShowPrompts(Diagnosis diagnosis)
    {
        foreach (var prompt in diagnosis.RecoveryPrompts)
        {
            output.Line();
            output.Paragraph(EncryptionWords.Of(prompt), style: prompt.Effect == PromptEffect.None ? null : "yellow");
        }
    }

    /// <summary>The same on half a screen: the answer, what is not sound, and the steps that would mend it.</summary>
    public void ShowBrief(Diagnosis diagnosis)
    {
        const int stepsShown = 4;
        ShowReadErrors(diagnosis);
        ShowAnswer(diagnosis);
        ShowDiskTrouble(diagnosis);
        ShowReported(diagnosis);
        var rows = FoldedRows(diagnosis.Plan.Before, diagnosis)
            .Where(row => row[1].Item1 is "BROKEN" or "DOUBTFUL" or "note")
            .ToList();
        output.Columns(rows.Take(stepsShown).ToList());
        if (rows.Count > stepsShown) output.Paragraph($"and {rows.Count - stepsShown} more", indent: 2, style: "grey");
        var steps = diagnosis.Plan.Steps;
        var what = diagnosis.Plan.After.Verdict == Verdict.Sound ? "it" : "a part of it";
        if (steps.Count > 0) output.Paragraph($"What would mend {what}:");
        foreach (var (step, index) in steps.Take(stepsShown).Select((step, index) => (step, index)))
            output.Paragraph($"{index + 1}. {Words.Of(step.Summary)}", indent: 2, hang: 3);
        if (steps.Count > stepsShown) output.Paragraph($"and {steps.Count - stepsShown} more", indent: 2, style: "grey");
        if (steps.Count == 0 && diagnosis.Plan.Refused is [var refusal, ..])
            output.Paragraph($"keel can't mend this. {Words.Todo(refusal.Why)}", hang: 2);
    }

    /// <summary>A disk that fails comes before everything that was found on it.</summary>
    public void ShowReadErrors(Diagnosis diagnosis)
    {
        foreach (var finding in diagnosis.Plan.Findings.Where(finding => finding.Id == ReadErrorsId))
        {
            output.Paragraph(
                $"READ ERRORS: {Words.Of(finding.Seen)}. Make an image of the disk before anything else: keel disk image DEVICE "
                    + "OUT",
                style: "red",
                hang: 2);
        }
    }

    /// <summary>What the machine noted is a memory, and the verdict a fact: the verdict stays the first line.</summary>
    public void ShowDiskTrouble(Diagnosis diagnosis)
    {
        if (DiskTrouble(diagnosis) is { } trouble) output.Paragraph(trouble, style: "red", hang: 2);
    }

    /// <summary>What the machine noted of a failing disk; null where it noted nothing.</summary>
    public static string? DiskTrouble(Diagnosis diagnosis) =>
        diagnosis.Memory is { } memory ? new HistorySentences(memory.History, isUtc: false).Disk() : null;

    /// <summary>The end: what the disk's state is, in a word, and what to type next.</summary>
    private void ShowNext(Diagnosis diagnosis)
    {
        var (plan, after) = (diagnosis.Plan, diagnosis.Plan.After.Verdict);
        if (plan.Steps.Count == 0 && plan.Refused.Count == 0) return;
        output.Line();
        var state = plan.Before.StopsAt is { } link
            ? $"BROKEN at {link.Id()}"
            : plan.Before.Verdict.ToString().ToUpperInvariant();
        var words = plan.Steps.Count == 1 ? "one step" : $"{plan.Steps.Count} steps";
        if (plan.Steps.Count > 0)
        {
            var does = after == Verdict.Sound ? $"keel can mend it in {words}" : $"keel can do {words} of it";
            output.Paragraph($"{state}: {does}.", style: "bold");
            output.Paragraph("Next:", output.Commands.Mend(diagnosis.Machine), style: "bold");
        }
        else
        {
            ShowNextByHand(diagnosis, state);
        }
    }

    private void ShowNextByHand(Diagnosis diagnosis, string state)
    {
        if (diagnosis.Plan.Findings.Any(finding => finding.Id == LockedId))
        {
            output.Paragraph($"{state}: the rest is behind the lock. With the recovery key at hand:", style: "bold");
            output.Command($"{output.Commands.Diagnose(diagnosis.Machine)} --unlock -");
            return;
        }

        var todo = Words.Todo(diagnosis.Plan.Refused[0].Why);
        output.Paragraph($"{state}: keel can't mend this. Next: {todo}", style: "bold", hang: 2);
    }

    /// <summary>What the machine remembers, where that tells more than that all was well.</summary>
    private void ShowMemory(Diagnosis diagnosis)
    {
        if (diagnosis.Memory is not { } memory) return;
        var sentences = new HistorySentences(memory.History, isUtc: false);
        var judgement = memory.History.Judgement;
        var lines = new List<string>();
        if (judgement.HasTrouble && diagnosis.Noted is null) lines.Add(sentences.Answer());
        var told = DiskTrouble(diagnosis);
        if (judgement.HasTrouble) lines.AddRange(sentences.Reasons().Where(reason => reason != told));
        if (all)
        {
            lines.AddRange(memory.Traces.Select(trace =>
                $"{sentences.Time(trace.Time)} {trace.Source}: {Words.Of(trace.Says)}"));
        }

        ShowList($"What the machine remembers, never proof (all: {output.Commands.History(diagnosis.Machine)})", lines);
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
                var doubt = walk.Findings.FirstOrDefault(finding => finding.Kind.Severity == Severity.Warning);
                output.Paragraph(
                    doubt is null ? $"DOUBTFUL{NotJudged(walk)}" : $"DOUBTFUL at {doubt.Link.Id()}: {doubt.Kind.What}",
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

    /// <summary>From where on the chain could not be judged, and why.</summary>
    private static string NotJudged(Walk walk) =>
        walk.Links.FirstOrDefault(link => link.Status == LinkStatus.Unreached) is { } first
            ? $" at {first.Link.Id()}: from here on nothing could be judged, {Words.Of(first.Detail)}."
            : ": not everything could be judged.";

    /// <summary>The chain: what is sound in one line, what is not link by link; all of it where that was asked for.</summary>
    public void ShowChain(Walk walk, Diagnosis? diagnosis = null)
    {
        output.Heading($"The chain ({SurveyView.FirmwareName(walk.Firmware)})");
        output.Columns(all ? [.. walk.Links.Select(LinkRow)] : FoldedRows(walk, diagnosis));
        if (!all || walk.Findings.Count == 0) return;
        output.Heading("Findings");
        output.Columns([.. walk.Findings.Select(finding => new (string, string?)[]
        {
            (finding.Id, null),
            (ToDocument.Word(finding.Kind.Severity), StyleOf(finding)),
            (Words.Of(finding.Seen), null)
        })]);
    }

    private (string, string?)[] LinkRow(LinkResult link) =>
    [
        (link.Link.Id(), null),
        (StatusWord(link.Status), StatusStyle(link.Status)),
        (
            link.Status == LinkStatus.Sound ? Short(Words.Of(link.Detail)) : Words.Of(link.Detail),
            link.Status == LinkStatus.Unreached ? "grey" : null)
    ];

    private static List<(string, string?)[]> FoldedRows(Walk walk, Diagnosis? diagnosis)
    {
        var rows = new List<(string, string?)[]>();
        var run = new List<LinkResult>();

        // Where nothing else says why a link was not reached, its own reason does.
        var saysWhy = !walk.Findings.Any(finding => finding.Kind.Severity != Severity.Note);
        foreach (var link in walk.Links)
        {
            var findings = walk.Findings.Where(finding => finding.Link == link.Link).ToList();
            var isPlain = link.Status == LinkStatus.Unreached || (link.Status == LinkStatus.Sound && findings.Count == 0);
            if (run.Count > 0 && (!isPlain || run[0].Status != link.Status)) Fold(run, rows, saysWhy);
            if (isPlain) run.Add(link);
            else if (findings.Count == 0) rows.Add(Row(link, Words.Of(link.Detail)));
            foreach (var finding in findings) rows.Add(Row(link, Told(finding, diagnosis), finding));
        }

        Fold(run, rows, saysWhy);
        var walked = walk.Links.Select(link => link.Link).ToHashSet();
        rows.AddRange(walk.Findings.Where(finding => !walked.Contains(finding.Link)).Select(finding => new (string, string?)[]
        {
            (finding.Link.Id(), null),
            (ToDocument.Word(finding.Kind.Severity), StyleOf(finding)),
            (Told(finding, diagnosis), null)
        }));
        return rows;
    }

    /// <summary>What was seen; with what was installed just before the starts failed, where it is about that.</summary>
    private static string Told(Finding finding, Diagnosis? diagnosis)
    {
        var told = $"{Words.Of(finding.Seen)} [{finding.Id}]";
        if (diagnosis?.ChangeBehind(finding) is not { } change || diagnosis.Memory is not { } memory) return told;
        var time = new HistorySentences(memory.History, isUtc: false).Time(change.Time);
        return $"{told} - installed {time}, after the last good start";
    }

    /// <summary>Links of the same status, in one row.</summary>
    private static void Fold(List<LinkResult> run, List<(string, string?)[]> rows, bool saysWhy)
    {
        if (run.Count == 0) return;
        var names = run.Count == 1 ? run[0].Link.Id() : $"{run[0].Link.Id()} to {run[^1].Link.Id()}";
        if (saysWhy && run[0].Status == LinkStatus.Unreached) names += $": {Words.Of(run[0].Detail)}";
        rows.Add([
            (Words.Count(run.Count, "link", "links"), null),
            (StatusWord(run[0].Status), StatusStyle(run[0].Status)),
            (names, "grey")
        ]);
        run.Clear();
    }

    private static (string, string?)[] Row(LinkResult link, string detail, Finding? finding = null)
    {
        var isNote = finding is { Kind.Severity: Severity.Note };
        return
        [
            (link.Link.Id(), null),
            (isNote ? "note" : StatusWord(link.Status), isNote ? "grey" : StatusStyle(link.Status)),
            (detail, null)
        ];
    }

    private static string StyleOf(Finding finding) => finding.Kind.Severity == Severity.Error ? "red" : "yellow";

    /// <summary>What is sound gets one line on a terminal; elsewhere nothing is cut.</summary>
    private string Short(string detail)
    {
        const int columnsBefore = 29, below = 4;
        if (Console.IsOutputRedirected) return detail;
        var room = output.HasRoomFor(columnsBefore) ? output.Width - columnsBefore : output.Width - below;
        return detail.Length <= room ? detail : detail[..(room - 3)].TrimEnd() + "...";
    }

    /// <summary>The steps, and what is left as it is.</summary>
    public void ShowPlan(Plan plan, bool withInstallations = false)
    {
        if (plan.Steps.Count > 0)
        {
            output.Heading(
                $"Plan, tried out in memory; the chain would then be {ToDocument.Word(plan.After.Verdict)}{WhyNotSound(plan)}",
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

    /// <summary>Why the end of a plan is not sound, in a few words.</summary>
    private static string WhyNotSound(Plan plan)
    {
        var worst = plan.After.Findings.OrderByDescending(finding => finding.Kind.Severity).FirstOrDefault();
        return plan.After.Verdict != Verdict.Sound && worst is not null ? $" ({worst.Id} remains)"
            : plan.IsUnproven ? " as far as keel walks it; that Windows starts is not proven"
            : "";
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
        var who = diagnosis.Noted is null ? "You reported" : "The machine itself noted";
        if (reported.Errors.Count == 0 && diagnosis.Noted is not null) return;
        if (reported.Errors.Count == 0)
        {
            output.Paragraph($"You reported \"{reported.Input}\", which is not known here.", style: "yellow");
            return;
        }

        var name = ExplainView.Name(reported.Errors[0]) + (reported.Guessed ? " (guessed)" : "");
        var finds = string.Join(" and ", diagnosis.ExplainedBy.Select(finding => finding.Id).Distinct());
        var lead = diagnosis.ExplainedBy.Select(finding => finding.Id).Distinct().Skip(1).Any() ? "lead" : "leads";
        output.Paragraph(diagnosis.Fit switch
        {
            CodeFit.Fits => $"{who} {name}: it fits, {finds} {lead} to it.",
            CodeFit.FitsAnother
                => $"{who} {name}: it fits {finds}, which comes after the place where the start stops now.",
            _
                => $"{who} {name}: it does not fit, nothing on "
                    + $"{(diagnosis.Machine.Disks.Count == 1 ? "this disk" : "these disks")} leads to it. Look elsewhere:"
        });
        foreach (var advice in diagnosis.LookElsewhere) output.Paragraph($"- {advice}", indent: 2, hang: 2);
    }

    private void ShowInstallations(Diagnosis diagnosis)
    {
        output.Line();
        if (diagnosis.Installations is [var only])
        {
            output.Paragraph($"Installation found: {Told(only)}", hang: 2);
            return;
        }

        output.Paragraph($"Installations found: {EncryptionWords.Counted(diagnosis.Machine)}");
        foreach (var found in diagnosis.Installations) output.Paragraph(Told(found), indent: 2, hang: 2);
    }

    private static string Told((WindowsInstallation Installation, bool Listed) found)
    {
        var build = found.Installation.Build > 0 ? $", build {found.Installation.Build}" : "";
        var list = found.Installation.IsNt5 ? "boot.ini" : "the store";
        return $"{found.Installation}{build} - {(found.Listed ? "already listed" : $"not listed in {list}")}";
    }
}

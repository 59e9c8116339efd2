using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Cli.Views;

/// <summary>Shows a repair: the plan before it, the chain after it.</summary>
internal sealed class MendView(Output output, bool all = false)
{
    private readonly DiagnoseView inner = new(output, all);

    public void ShowPlan(Diagnosis diagnosis, bool preview)
    {
        if (output.IsJson) return;
        if (diagnosis.Plan.IsRequest)
        {
            inner.ShowPlan(diagnosis.Plan);
            ShowWarnings(diagnosis);
            return;
        }

        if (!preview && diagnosis.Plan.Steps.Count > 0)
        {
            inner.ShowReadErrors(diagnosis);
            inner.ShowAnswer(diagnosis);
            inner.ShowDiskTrouble(diagnosis);
            inner.ShowPlan(diagnosis.Plan, withInstallations: true);
            ShowWarnings(diagnosis);
            return;
        }

        inner.Show(diagnosis);
    }

    /// <summary>What is to be known before it is agreed to.</summary>
    private void ShowWarnings(Diagnosis diagnosis)
    {
        inner.ShowPrompts(diagnosis);
        ShowRoom(diagnosis.Plan);
    }

    /// <summary>A repair that takes its time, and its room, says so before it is agreed to.</summary>
    private void ShowRoom(Plan plan)
    {
        const long worthSaying = 16 * 1024 * 1024;
        if (plan.Changes.ChangedBytes < worthSaying) return;
        output.Line();
        output.Paragraph(
            $"It writes {Sizes.Text(plan.Changes.ChangedBytes)}; the way back takes "
                + $"{Sizes.Text(plan.Changes.RecordBytes)} in the logbook.");
    }

    /// <summary>A plan that was made anew, because a step of it was declined.</summary>
    public void ShowAgain(Plan plan)
    {
        if (!output.IsJson) inner.ShowPlan(plan);
    }

    /// <summary>The end of a request that changes nothing: it is said before anything is asked.</summary>
    public void FinishUnchanged(Diagnosis diagnosis)
    {
        if (output.IsJson) KeelJson.Print(ToDocument.Mend(diagnosis, record: null, after: null), KeelJson.Default.MendDocument);
        else output.Paragraph("That changes nothing: the disk has it so already. Nothing was written.");
    }

    /// <summary>The end: what was written, and how the chain stands now.</summary>
    public void Finish(Diagnosis diagnosis, RepairRecord? record, Diagnosis? after)
    {
        if (output.IsJson)
        {
            KeelJson.Print(ToDocument.Mend(diagnosis, record, after), KeelJson.Default.MendDocument);
            return;
        }

        if (after is null)
        {
            output.Line();
            output.Paragraph(diagnosis.Plan.Steps.Count > 0 ? "This was a preview: nothing was written."
                : diagnosis.Plan.Before.Verdict == Verdict.Sound ? "There is nothing to mend, and nothing was written."
                : "There is nothing that keel can mend here, and nothing was written.");
            return;
        }

        if (record is null)
        {
            output.Line();
            output.Paragraph("The disk holds exactly this already; nothing was written.");
            return;
        }

        ShowAfter(diagnosis, after);
        output.Paragraph($"Saved as repair {record.Document.Id}. To take it back:");
        output.Command(output.Commands.Undo(diagnosis.Machine));
    }

    /// <summary>How the chain stands after a repair; where nothing about that has changed, in one line.</summary>
    private void ShowAfter(Diagnosis diagnosis, Diagnosis after)
    {
        var (before, now) = (diagnosis.Plan.Before, after.Plan.Before);
        var isAsBefore = before.Verdict == now.Verdict && before.StopsAt == now.StopsAt;
        output.Line();
        output.Paragraph("Written, read back, and walked again.", style: "bold");
        if (diagnosis.Plan.IsUnproven && now.Verdict == Verdict.Sound)
        {
            output.Paragraph(
                "NOT PROVEN: the boot chain is whole, as far as keel walks it; only the next start shows whether Windows takes "
                    + "the driver.",
                style: "bold yellow");
            output.Line();
            return;
        }

        if (diagnosis.Plan.IsRequest && isAsBefore)
        {
            var at = now.StopsAt is { } link ? $" at {link.Id()}" : "";
            output.Paragraph($"{now.Verdict.ToString().ToUpperInvariant()}{at}, as before.");
            return;
        }

        inner.ShowAnswer(after);
        if (all || now.Verdict != Verdict.Sound) inner.ShowChain(now);
        output.Line();
    }
}

using Keel.Cli.Wording;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Mending;

namespace Keel.Cli.Terminal;

/// <summary>Gets the technician's word before anything is written.</summary>
/// <param name="output">Where it asks.</param>
/// <param name="yes">Whether the technician agreed beforehand.</param>
/// <param name="named">For which steps that are agreed to by themselves that holds too.</param>
internal sealed class Consent(Output output, bool yes, params IReadOnlyCollection<StepConsent> named)
{
    /// <summary>
    /// Asks about each step of a plan; a step that is declined makes the plan anew without it. Gives the plan agreed to.
    /// </summary>
    /// <param name="showAgain">Shows a plan that was made anew, and so may have changed.</param>
    /// <exception cref="RefusedException">Nobody was there to agree, or everything was declined.</exception>
    public Plan Agree(Plan plan, Action<Plan> showAgain)
    {
        if (yes) return AgreedBeforehand(plan, showAgain);
        RequireTerminal();
        var agreed = new HashSet<StepId>();
        while (plan.Steps.FirstOrDefault(step => !agreed.Contains(step.Id)) is { } step)
        {
            var isLast = plan.Steps.Count(other => !agreed.Contains(other.Id)) == 1;
            switch (output.Ask(
                $"{Place(plan, step)} {Words.Of(step.Summary)} Write it:",
                isLast ? "[y]es / [n]o / [s]how" : "[y]es / [n]o / [a]ll / [s]how"))
            {
                case 'y':
                    agreed.Add(step.Id);
                    break;
                case 'a':
                    agreed.Add(step.Id);
                    agreed.UnionWith(plan.Steps.Where(other => other.Consent == StepConsent.Usual).Select(other => other.Id));
                    break;
                case 's':
                    Show(step, plan);
                    break;
                case 'n':
                    plan = MadeAnew(plan, step, showAgain);
                    break;
                default:
                    output.Message(isLast ? "Please answer y, n or s." : "Please answer y, n, a or s.");
                    break;
            }
        }

        return plan.Steps.Count > 0 ? plan : throw Declined();
    }

    /// <summary>
    /// What was agreed to with --yes: without steps that are agreed to by themselves, where that was not said.
    /// </summary>
    private Plan AgreedBeforehand(Plan plan, Action<Plan> showAgain)
    {
        if (!plan.Steps.Any(IsUnnamed)) return plan;
        var rest = plan;
        var left = new HashSet<StepConsent>();
        while (rest.Steps.FirstOrDefault(IsUnnamed) is { } step)
        {
            left.Add(step.Consent);
            rest = rest.Without(step);
        }

        foreach (var consent in left.Order()) output.Message(ByItself(consent));
        if (rest.Steps.Count > 0 && rest.GetsFurther)
        {
            showAgain(rest);
            return rest;
        }

        throw left.Contains(StepConsent.NewFileSystem)
            ? new RefusedException(
                "Nothing was written.",
                "The plan makes a new file system, and --yes alone does not agree to that.",
                "If nothing there is wanted, add --new-file-system; --preview shows the plan.")
            : new RefusedException(
                "Nothing was written.",
                "The plan gives up the session of a hibernated Windows, and --yes alone does not agree to that.",
                "If what was open in it is not wanted, add --give-up-session; --preview shows the plan.");
    }

    private bool IsUnnamed(Step step) => step.Consent != StepConsent.Usual && !named.Contains(step.Consent);

    private static string ByItself(StepConsent consent) => consent == StepConsent.NewFileSystem
        ? "A new file system is made only where that is agreed to by itself: with --yes --new-file-system."
        : "A session is given up only where that is agreed to by itself: with --yes --give-up-session.";

    /// <summary>Asks one question, yes or no; "show" prints what stands behind it.</summary>
    public void Agree(string question, Action show)
    {
        if (yes) return;
        RequireTerminal();
        while (true)
        {
            switch (output.Ask(question, "[y]es / [n]o / [s]how"))
            {
                case 'y':
                    return;
                case 'n':
                    throw Declined();
                case 's':
                    show();
                    break;
                default:
                    output.Message("Please answer y, n or s.");
                    break;
            }
        }
    }

    /// <summary>Prints the byte ranges that would change.</summary>
    public void ShowRanges(string disk, IReadOnlyList<ByteRange> ranges)
    {
        var bytes = Words.Count(ranges.Sum(range => range.Length), "byte", "bytes");
        output.Message($"{disk}: {bytes} in {Words.Count(ranges.Count, "range", "ranges")} would change:");
        foreach (var range in ranges) output.Message($"  byte {range.Start} to {range.End - 1} ({range.Length} bytes)");
    }

    private static string Place(Plan plan, Step step)
    {
        var link = Core.Chain.Links.Id(step.Link);
        if (plan.Steps.Count == 1) return $"{link}:";
        var number = plan.Steps.TakeWhile(other => other != step).Count() + 1;
        return $"{number} of {plan.Steps.Count}, {link}:";
    }

    /// <summary>Without a step the others may come out differently; what nobody has seen is shown first.</summary>
    private static Plan MadeAnew(Plan plan, Step declined, Action<Plan> showAgain)
    {
        var next = plan.Without(declined);
        if (next.Steps.Any(step =>
            !plan.Steps.Any(known => known.Id == step.Id && Words.Of(known.Summary) == Words.Of(step.Summary))))
        {
            showAgain(next);
        }

        return next;
    }

    private void Show(Step step, Plan plan)
    {
        foreach (var detail in step.Details) output.Message($"  {Words.Of(detail.Says)}");
        foreach (var disk in plan.Changes.Disks.Where(disk => disk.Changes.Any))
            ShowRanges(disk.Path, [.. disk.Changes.Ranges.Select(range => range.Range)]);
    }

    private static void RequireTerminal()
    {
        if (!Output.CanAsk)
        {
            throw new RefusedException(
                "Nothing was written.",
                "Nobody is at a terminal to agree to the plan.",
                "Run it at a terminal, or agree beforehand with --yes.");
        }
    }

    private static RefusedException Declined() =>
        new("Nothing was written.", "The answer was no.", "Run 'keel diagnose' to see the findings again.");
}

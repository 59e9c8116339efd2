using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Mending;

namespace Keel.Cli.Terminal;

/// <summary>Gets the technician's word before anything is written.</summary>
internal sealed class Consent(Screen screen, bool yes)
{
    /// <summary>Asks about each step of a plan; a step that is declined makes a new plan without it. Gives the plan agreed to.</summary>
    /// <exception cref="RefusedException">Nobody was there to agree, or everything was declined.</exception>
    public Plan Agree(Machine machine, Plan plan, RepairTerms terms)
    {
        if (yes) return plan;
        RequireTerminal();
        var agreed = new HashSet<string>();
        var declined = new HashSet<string>();
        while (plan.Steps.FirstOrDefault(step => !agreed.Contains(step.FindingId)) is { } step)
        {
            switch (screen.Ask($"{step.Link.Id()}: {screen.Escape(step.Summary)} [y]es / [n]o / [a]ll / [s]how"))
            {
                case 'y':
                    agreed.Add(step.FindingId);
                    break;
                case 'a':
                    return plan;
                case 's':
                    Show(step, machine);
                    break;
                case 'n':
                    declined.Add(step.FindingId);
                    machine.Discard();
                    plan = Plan.For(machine, terms with { Declined = declined });
                    break;
                default:
                    screen.Message("Please answer y, n, a or s.");
                    break;
            }
        }

        return agreed.Count > 0 ? plan : throw Declined();
    }

    /// <summary>Asks one question, yes or no; "show" prints what stands behind it.</summary>
    public void Agree(string question, Action show)
    {
        if (yes) return;
        RequireTerminal();
        while (true)
        {
            switch (screen.Ask($"{question} [y]es / [n]o / [a]ll / [s]how"))
            {
                case 'y' or 'a':
                    return;
                case 'n':
                    throw Declined();
                case 's':
                    show();
                    break;
                default:
                    screen.Message("Please answer y, n, a or s.");
                    break;
            }
        }
    }

    /// <summary>Prints the byte ranges that would change.</summary>
    public void ShowRanges(IEnumerable<(string Disk, IReadOnlyList<ByteRange> Ranges)> changes)
    {
        foreach (var (disk, ranges) in changes)
        {
            screen.Message($"{disk}: {ranges.Sum(range => range.Length)} bytes in {ranges.Count} ranges would change:");
            foreach (var range in ranges) screen.Message($"  byte {range.Start} to {range.End - 1} ({range.Length} bytes)");
        }
    }

    private void Show(Step step, Machine machine)
    {
        foreach (var detail in step.Details) screen.Message($"  {detail}");
        ShowRanges(Plan.Changes(machine).Select(change => (change.Disk.Path, change.Ranges)));
    }

    private static void RequireTerminal()
    {
        if (!Screen.CanAsk)
            throw new RefusedException("Nothing was written.", "Nobody is at a terminal to agree to the plan.", "Run it at a terminal, or agree beforehand with --yes.");
    }

    private static RefusedException Declined() => new("Nothing was written.", "The answer was no.", "Run 'keel diagnose' to see the findings again.");
}

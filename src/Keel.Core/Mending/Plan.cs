using Keel.Core.Blocks;
using Keel.Core.Chain;

namespace Keel.Core.Mending;

/// <summary>A repair, already carried out in the overlays of the machine, and proven there by walking again.</summary>
/// <param name="Before">The walk over the disk as it is.</param>
/// <param name="Findings">Everything found, also what showed only behind a mended link.</param>
/// <param name="Refused">What is left as it is.</param>
/// <param name="After">The walk over the disk as it would be.</param>
public sealed record Plan(Walk Before, IReadOnlyList<Finding> Findings, IReadOnlyList<Step> Steps, IReadOnlyList<Refusal> Refused, Walk After)
{
    private const string AskedFor = "asked-for";
    private const int StepLimit = 100;

    /// <summary>Whether it was asked for outright, and not found by a walk.</summary>
    public bool IsRequest => Steps.Any(step => step.FindingId == AskedFor);

    /// <summary>Makes the plan for a machine: mends the first broken link in the overlay, walks again, and so on until nothing more can be done.</summary>
    public static Plan For(Machine machine, RepairTerms terms)
    {
        var before = Walk.Of(machine);
        var findings = before.Findings.ToList();
        var steps = new List<Step>();
        var mended = new HashSet<Finding>();
        var refused = new Dictionary<Finding, Refusal>();
        var walk = before;
        while (steps.Count < StepLimit && FirstMendable(walk, terms, finding => mended.Contains(finding) || refused.ContainsKey(finding)) is { } finding)
        {
            var attempt = Try(machine, finding, terms);
            if (attempt.Step is null)
            {
                refused.Add(finding, new Refusal(finding.Link, finding.Id, attempt.Why, attempt.Todo));
                continue;
            }

            mended.Add(finding);
            steps.Add(attempt.Step);
            refused.Clear();                                    // what could not be done before this step may be possible now
            walk = Walk.Of(machine);
            findings.AddRange(walk.Findings.Where(late => findings.TrueForAll(known => known.Id != late.Id)));
        }

        var left = walk.Findings.Where(finding => (finding.Kind.Severity == Severity.Error || finding.Kind.Beyond is not null) && !refused.ContainsKey(finding) && !terms.Declined.Contains(finding.Id));
        return new Plan(before, findings, steps, [.. refused.Values, .. left.Select(BeyondKeel)], walk);
    }

    /// <summary>Whether keel has a repair for a finding.</summary>
    public static bool IsMendable(Finding finding) => AllRemedies.For(finding) is not null;

    /// <summary>A plan of one step that was asked for outright.</summary>
    internal static Plan ForRequest(Machine machine, Func<string, Step> act) => ForRequests(machine, id => [act(id)]);

    /// <summary>A plan of several steps that were asked for outright.</summary>
    internal static Plan ForRequests(Machine machine, Func<string, IReadOnlyList<Step>> act)
    {
        var before = Walk.Of(machine);
        var steps = act(AskedFor);
        return new Plan(before, before.Findings, steps, [], Walk.Of(machine));
    }

    /// <summary>The ranges that differ, disk by disk.</summary>
    public static IReadOnlyList<(MachineDisk Disk, IReadOnlyList<ByteRange> Ranges)> Changes(Machine machine) =>
        [.. machine.Disks.Select(disk => (disk, disk.Overlay.Changes())).Where(change => change.Item2.Count > 0)];

    private static Finding? FirstMendable(Walk walk, RepairTerms terms, Func<Finding, bool> isDealtWith) => walk.Findings.FirstOrDefault(finding =>
        finding.Kind.Severity != Severity.Note && !isDealtWith(finding) && !terms.Declined.Contains(finding.Id) && AllRemedies.For(finding) is not null);

    /// <summary>A remedy that fails midway leaves nothing behind.</summary>
    private static Attempt Try(Machine machine, Finding finding, RepairTerms terms)
    {
        var saved = machine.Disks.Select(disk => disk.Overlay.Save()).ToList();
        var savedVariables = machine.Variables?.Save();
        Attempt attempt;
        try
        {
            attempt = AllRemedies.For(finding)!.Apply(machine, finding, terms);
        }
        catch (Errors.KeelException e)
        {
            attempt = Attempt.Refused($"{e.What} {e.Why}", e.Todo);
        }

        if (attempt.Step is null)
        {
            foreach (var (disk, state) in machine.Disks.Zip(saved)) disk.Overlay.Restore(state);
            if (savedVariables is not null) machine.Variables!.Restore(savedVariables);
        }

        return attempt;
    }

    private static Refusal BeyondKeel(Finding finding) => finding.Kind.Beyond is { } todo ? new(finding.Link, finding.Id, "keel does not change this.", todo) : new(
        finding.Link,
        finding.Id,
        "keel has no safe repair for this.",
        $"Run 'keel explain' with the code on the screen, and see what it says about {finding.Link.Id()}.");
}

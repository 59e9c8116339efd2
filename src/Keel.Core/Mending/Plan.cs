using Keel.Core.Chain;
using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Mending;

/// <summary>A repair, tried out in the overlays of the machine, and proven there by walking again.</summary>
/// <param name="Before">The walk over the disk as it is.</param>
/// <param name="Findings">Everything found, also what showed only behind a mended link.</param>
/// <param name="Steps">What is to be done, in order.</param>
/// <param name="Refused">What is left as it is.</param>
/// <param name="After">The walk over the disk as it would be.</param>
/// <param name="Changes">What it writes, and what was read there; the plan's own from here on.</param>
public sealed record Plan(
    Walk Before,
    IReadOnlyList<Finding> Findings,
    IReadOnlyList<Step> Steps,
    IReadOnlyList<Refusal> Refused,
    Walk After,
    ChangeSet Changes)
{
    private const string AskedFor = "asked-for";
    private const int StepLimit = 100;
    private static readonly IReadOnlySet<StepId> NoneDeclined = new HashSet<StepId>();

    /// <summary>Whether it was asked for outright, and not found by a walk.</summary>
    public bool IsRequest { get; private init; }

    /// <summary>The steps that the technician declined.</summary>
    public IReadOnlySet<StepId> Declined { get; private init; } = NoneDeclined;

    /// <summary>Whether only the next start of Windows shows that a step of it helps.</summary>
    public bool IsUnproven => Steps.Any(step => step.IsUnproven);

    /// <summary>
    /// Whether the machine comes further by it: where it would stop where it stops now, what is left of a plan is half a repair.
    /// </summary>
    public bool GetsFurther => Before.StopsAt is not { } stopped || After.StopsAt is not { } stop || stop > stopped;

    private Func<IReadOnlySet<StepId>, Plan> Remake { get; init; } = _ =>
        throw new InvalidOperationException("This plan can't be made again.");

    /// <summary>
    /// Makes the plan for a machine: mends the first broken link in the overlay, walks again, and so on until nothing more can be
    /// done.
    /// </summary>
    public static Plan For(Machine machine, RepairTerms terms) => For(machine, terms, NoneDeclined);

    /// <summary>The same plan made anew without a step, and without those declined before.</summary>
    public Plan Without(Step step) => Remake(Declined.Append(step.Id).ToHashSet());

    /// <summary>Whether keel has a repair for a finding.</summary>
    public static bool IsMendable(Finding finding) => IsMendable(finding.Kind);

    /// <summary>
    /// Whether keel has a remedy for such findings, where the disk allows it. An open session is none of them: it is given up
    /// only where it is in the way, or where that was asked for.
    /// </summary>
    public static bool IsMendable(FindingKind kind) =>
        kind != WindowsVolumeHealth.Hibernated && AllRemedies.For(kind) is not null;

    /// <summary>A plan of one step that was asked for outright.</summary>
    internal static Plan ForRequest(Machine machine, Func<string, Step> act) => ForRequests(machine, [act]);

    /// <summary>A plan of several steps that were asked for outright; one that turns out not to be needed gives null.</summary>
    internal static Plan ForRequests(Machine machine, IReadOnlyList<Func<string, Step?>> acts) =>
        ForRequests(machine, acts, NoneDeclined);

    private static Plan For(Machine machine, RepairTerms terms, IReadOnlySet<StepId> declined)
    {
        machine.RestoreUntouched();
        var before = Walk.Of(machine);
        var findings = before.Findings.ToList();
        var steps = new List<Step>();
        var mended = new HashSet<StepId>();
        var refused = new Dictionary<StepId, Refusal>();
        var walk = before;
        bool IsDealtWith(StepId id) => mended.Contains(id) || refused.ContainsKey(id) || declined.Contains(id);
        while (steps.Count < StepLimit && NextOf(walk, terms, refused, IsDealtWith) is { } finding)
        {
            var id = StepId.Of(finding);
            var (attempt, after) = PlanAttempt.Try(
                machine,
                finding,
                terms,
                walk,
                later => !mended.Contains(StepId.Of(later)) && !declined.Contains(StepId.Of(later)));
            if (attempt.Step is not { } step)
            {
                refused.Add(id, new Refusal(finding.Link, finding.Id, attempt.Why!) { Obstacle = attempt.Obstacle });
                continue;
            }

            mended.Add(id);
            steps.Add(step with { Id = id });
            refused.Clear();                                    // what could not be done before this step may be possible now
            walk = after;
            findings.AddRange(walk.Findings.Where(late => findings.TrueForAll(known => known.Id != late.Id)));
        }

        if (walk.Verdict == Verdict.Broken && steps.Find(IsPutFirst) is { } first)
        {
            // Nothing is put first in the firmware's order as long as the chain behind it stays broken: the machine may start
            // otherwise.
            var rest = For(machine, terms, declined.Append(first.Id).ToHashSet());
            return rest with
            {
                Refused = [.. rest.Refused, new Refusal(first.Link, first.FindingId, Remark.Of("left.chain-stays-broken"))],
                Declined = declined
            };
        }

        // An error of the disk that showed only while the repair was tried is told first all the same.
        findings = [.. ReadErrorFindings.Of(machine), .. findings.Where(finding => finding.Kind != ReadErrorFindings.Kind)];
        var left =
            walk.Findings.Where(finding =>
                IsWorthSaying(finding) && !refused.ContainsKey(StepId.Of(finding)) && !declined.Contains(StepId.Of(finding)));
        return new Plan(before, findings, steps, [.. refused.Values, .. left.Select(BeyondKeel)], walk, ChangeSet.Of(machine))
        {
            Declined = declined,
            Remake = more => For(machine, terms, more)
        };
    }

    private static Plan ForRequests(Machine machine, IReadOnlyList<Func<string, Step?>> acts, IReadOnlySet<StepId> declined)
    {
        machine.RestoreUntouched();
        var before = Walk.Of(machine);
        var steps = new List<Step>();
        foreach (var (act, number) in acts.Select((act, number) => (act, number)))
        {
            var id = new StepId(AskedFor, $"{number}");
            var touched = VolumeGuard.Touched(machine).Select(volume => volume.Ref).ToList();
            if (!declined.Contains(id) && act(AskedFor) is { } step)
                steps.Add(VolumeGuard.Pass(machine, step, touched) with { Id = id });
        }

        return new Plan(before, before.Findings, steps, [], Walk.Of(machine), ChangeSet.Of(machine))
        {
            IsRequest = true,
            Declined = declined,
            Remake = more => ForRequests(machine, acts, more)
        };
    }

    private static bool IsPutFirst(Step step) => step.FindingId == Chain.Checks.FirmwareEntryCheck.Missing.Id
        || step.FindingId == Chain.Checks.FirmwareEntryCheck.OrderWrong.Id;

    /// <summary>
    /// What is mended next. An open session is given up where something else can't be mended as long as it is open, or where
    /// that was asked for.
    /// </summary>
    private static Finding? NextOf(
        Walk walk,
        RepairTerms terms,
        Dictionary<StepId, Refusal> refused,
        Func<StepId, bool> isDealtWith)
    {
        bool IsToBeMended(Finding finding) => finding.Kind.Severity != Severity.Note
            || (terms.AsksForRecoveryKey && finding.Kind == RecoveryPromptCauses.Settings);
        var mendable = walk.Findings.Where(finding =>
            IsToBeMended(finding) && !isDealtWith(StepId.Of(finding)) && AllRemedies.For(finding) is not null)
            .ToList();
        var isInTheWay = terms.GiveUpSession
            || refused.Values.Any(refusal => refusal.Obstacle == Obstacle.OpenSession);
        return mendable.Find(finding => finding.Kind != WindowsVolumeHealth.Hibernated)
            ?? (isInTheWay ? mendable.Find(finding => finding.Kind == WindowsVolumeHealth.Hibernated) : null);
    }

    private static bool IsWorthSaying(Finding finding) =>
        finding.Kind.Severity == Severity.Error || finding.Kind.Beyond is not null;

    private static Refusal BeyondKeel(Finding finding) => new(finding.Link, finding.Id, finding.Kind.Beyond is { } todo
        ? Remark.Of("left.beyond", Fact.Todo.Is(todo))
        : Remark.Of("left.no-repair", Fact.Link.Is(finding.Link.Id())));
}

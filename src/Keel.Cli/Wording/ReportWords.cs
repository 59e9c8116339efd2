using Keel.Core.Chain;
using Keel.Core.Mending;

namespace Keel.Cli.Wording;

/// <summary>The sentences of a report: for somebody who never saw a boot chain.</summary>
internal static class ReportWords
{
    /// <summary>The verdict in one sentence.</summary>
    public static string Verdict(Diagnosis diagnosis, Diagnosis? after, bool wasMended)
    {
        var before = diagnosis.Plan.Before;
        if (after is { Plan.Before.Verdict: Core.Chain.Verdict.Sound })
            return before.Verdict == Core.Chain.Verdict.Sound
                ? "The machine was in order, and still is as far as keel sees it."
                : "The machine did not start; it was mended, and should start again.";
        if (after is not null) return "The machine did not start; a part of it was mended, and something is still wrong.";
        return before.Verdict switch
        {
            Core.Chain.Verdict.Sound when wasMended => "This machine was worked on; what it starts through is in order now.",
            Core.Chain.Verdict.Sound => "Nothing is wrong with what this machine starts through.",
            Core.Chain.Verdict.Doubtful => Doubt(before),
            _ when diagnosis.Plan.Steps.Count > 0 => "This machine does not start, and can be mended.",
            _ => "This machine does not start, and keel can't mend it."
        };
    }

    private static string Doubt(Walk walk) =>
        walk.Findings.FirstOrDefault(finding => finding.Kind.Severity == Severity.Warning) is { } doubt
            ? $"This machine may start, and this is not in order: {Lowered(doubt.Kind.What)}"
            : "Nothing was found broken here, and not everything could be judged.";

    /// <summary>What the customer should know, a few sentences.</summary>
    public static IEnumerable<string> ForCustomer(Diagnosis diagnosis, Diagnosis? after, bool wasMended)
    {
        var plan = diagnosis.Plan;
        if (plan.Before.StopsAt is { } link)
        {
            var worst = plan.Before.Findings.First(finding => finding.Link == link && finding.Kind.Severity == Severity.Error);
            yield return $"When a machine starts, one thing calls the next, like the links of a chain. Here the chain "
                + $"stopped at {PartOf(link)}: {Lowered(worst.Kind.What)}";
        }
        else if (plan.Before.Verdict == Core.Chain.Verdict.Sound && after is null)
        {
            yield return "When a machine starts, one thing calls the next, like the links of a chain. All of them were looked "
                + "at, and all are in order. If it still does not start, the cause lies behind them.";
        }

        if (after is not null || wasMended)
        {
            yield return "Everything that was changed on the disk was saved first, so that it can be taken back at any time. "
                + "Nothing else on the disk was touched.";
        }
        else
        {
            yield return "Nothing was changed on the disk so far.";
        }

        if (plan.Steps.Any(step => step.Loss.HasFlag(Loss.Settings)))
        {
            yield return "A part came from an older copy: changes made to the machine since then may be missing. "
                + "The list of steps says from when it is.";
        }
    }

    /// <summary>What remains to be done, the first thing first.</summary>
    public static IEnumerable<string> Remaining(Diagnosis state)
    {
        var (plan, seen) = (state.Plan, new HashSet<string>());
        if (plan.Before.Verdict != Core.Chain.Verdict.Sound && plan.Steps.Count > 0)
            yield return $"Carry out {Words.Count(plan.Steps.Count, "planned step", "planned steps")}.";
        foreach (var refusal in plan.Refused)
        {
            var todo = Words.Todo(refusal.Why);
            if (seen.Add(todo)) yield return todo;
        }

        foreach (var advice in state.Beyond) yield return advice;
        if (plan.Before.Verdict == Core.Chain.Verdict.Sound)
            yield return "Start the machine once, and watch it come up to the desktop.";
    }

    /// <summary>What a link is, in plain words.</summary>
    public static string PartOf(Link link) => link switch
    {
        Link.FirmwareEntry => "the entry in the firmware",
        Link.DiskLayout => "the disk's table of partitions",
        Link.MbrCode => "the first sector of the disk",
        Link.ActiveMark => "the mark of the partition to start from",
        Link.BootSector => "the boot sector of that partition",
        Link.SystemVolume => "the partition that starting begins on",
        Link.ManagerFile => "the boot manager",
        Link.FallbackFile => "the spare boot manager",
        Link.Store => "the list of what can be started",
        Link.ManagerEntry => "what that list says of itself",
        Link.WindowsEntry => "the entry of this Windows",
        Link.WindowsVolume => "the volume that Windows is on",
        Link.LoaderFile => "the loader of Windows",
        Link.DetectFile => "the program that looks at the hardware",
        Link.BootList => "the list of systems, boot.ini",
        Link.BootLine => "the line of this Windows in it",
        Link.SystemHive => "the settings that Windows starts with",
        Link.KernelFiles => "the kernel of Windows",
        Link.StartDrivers => "the drivers that start first",
        Link.Session => "what comes between the kernel and the desktop",
        _ => link.Id()
    };

    /// <summary>The sentence as it follows a colon; names keep their capital.</summary>
    private static string Lowered(string sentence) =>
        sentence.Length > 1
            && !sentence.StartsWith("Windows", StringComparison.Ordinal)
            && char.IsUpper(sentence[0])
            && char.IsLower(sentence[1])
            ? char.ToLowerInvariant(sentence[0]) + sentence[1..]
            : sentence;
}

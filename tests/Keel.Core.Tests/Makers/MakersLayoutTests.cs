using Keel.Core.Chain;
using Keel.Core.Mending;
using Keel.Tests;

namespace Keel.Core.Tests.Makers;

/// <summary>Machines as makers, setup programs and owners lay them out: none of them is a false alarm, and none is changed.</summary>
public sealed class MakersLayoutTests
{
    public static TheoryData<string> Names => [.. MakersLayouts.All.Select(layout => layout.Name)];

    [Theory]
    [MemberData(nameof(Names))]
    public async Task It_is_sound(string name)
    {
        var layout = MakersLayouts.All.Single(layout => layout.Name == name);
        using var scratch = new Scratch();
        using var machine = await new MakersMachine(layout, scratch).Make();
        var plan = Plan.For(machine, RepairTerms.Usual);
        var found = plan.Findings
            .Where(finding => finding.Kind.Severity != Severity.Note)
            .Select(finding => $"{finding.Id}: {finding.Seen}")
            .ToList();
        found.Select(finding => finding[..finding.IndexOf(':', StringComparison.Ordinal)])
            .Distinct()
            .ShouldBe(layout.Expected, string.Join('\n', found));
        plan.Steps.ShouldBeEmpty();
        if (layout.Expected.Length == 0) plan.Before.Verdict.ShouldBe(Verdict.Sound);
    }
}

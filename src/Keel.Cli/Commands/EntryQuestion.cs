using Keel.Cli.Terminal;
using Keel.Core.Facts;
using Keel.Core.Mending;

namespace Keel.Cli.Commands;

/// <summary>Asks which Windows an entry means, where several fit it equally well and somebody is there to answer.</summary>
internal static class EntryQuestion
{
    /// <summary>The number of the installation in the list of the refusal, from 1; null where it stays open.</summary>
    public static int? Ask(Output output, Plan plan)
    {
        const int most = 9;
        if (output.IsJson || !Output.CanAsk) return null;
        if (plan.Refused.FirstOrDefault(refusal => refusal.Obstacle == Obstacle.SeveralFit) is not { } open) return null;
        if (open.Why.Facts.Get(Fact.Installations) is not { Count: > 1 and <= most } numbered) return null;
        var choices = numbered.Select(WithoutNumber).ToList();
        var chosen = new ChoiceMenu(output).Ask($"Which Windows does \"{open.Why.Facts.Get(Fact.Title)}\" mean?", choices);
        return chosen + 1;
    }

    private static string WithoutNumber(string line) => line[(line.IndexOf(' ', StringComparison.Ordinal) + 1)..];
}

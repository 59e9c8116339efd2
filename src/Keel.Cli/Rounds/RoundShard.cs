using System.Globalization;
using Keel.Core.Errors;

namespace Keel.Cli.Rounds;

/// <summary>The part of a round that one process does: every target whose place in the list has this remainder.</summary>
/// <param name="Number">From 1.</param>
/// <param name="Count">How many parts there are.</param>
internal sealed record RoundShard(int Number, int Count)
{
    public static RoundShard Whole { get; } = new(1, 1);

    /// <summary>The name of the file that its lines go into.</summary>
    public string FileName => Count == 1
        ? $"round{RoundLedger.Ending}"
        : string.Create(CultureInfo.InvariantCulture, $"round-{Number}-of-{Count}{RoundLedger.Ending}");

    /// <summary>Reads "2/8".</summary>
    /// <exception cref="WrongUsageException">It is none.</exception>
    public static RoundShard Parse(string text) =>
        text.Split('/') is [var number, var count]
        && int.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var which)
        && int.TryParse(count, NumberStyles.None, CultureInfo.InvariantCulture, out var of)
        && which >= 1
        && which <= of
            ? new RoundShard(which, of)
            : throw new WrongUsageException(
                $"\"{text}\" is no part of a round.",
                "A part is its number, a stroke, and how many parts there are.",
                "Such as --shard 2/8");

    /// <summary>Whether a target belongs to it, by its place in the list, from 0.</summary>
    public bool Has(int place) => place % Count == Number - 1;
}

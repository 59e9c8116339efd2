using System.Collections;
using System.Globalization;
using System.Text;
using Keel.Core.Facts;

namespace Keel.Cli.Wording;

/// <summary>A sentence with gaps for facts.</summary>
/// <remarks>
/// <c>{path}</c> is the fact; <c>{entryCount:entry|entries}</c> a number with its noun; <c>{isActive?active|idle}</c> one of
/// two words,
/// the first for true, for 1 and for a list of one; <c>{names&amp;}</c> a list joined by "and", <c>{files;}</c> one joined by
/// semicolons;
/// <c>{sectors#6}</c> at most six of a list, and how many more; <c>{reason^}</c> begins with a capital letter;
/// <c>{sizeBytes%}</c> is a size in a unit that fits.
/// What stands in <c>[brackets]</c> is left out where one of its facts is not known, or false.
/// </remarks>
internal sealed class Template(string text)
{
    private const string Signs = ":?&;#^%";

    /// <summary>The names of the facts that the sentence tells.</summary>
    public IEnumerable<string> Gaps => text.Split('{').Skip(1).Select(part => NameOf(part[..part.IndexOf('}')]));

    /// <summary>The sentence with the facts in it.</summary>
    public string Fill(FactSet facts)
    {
        var result = new StringBuilder();
        var rest = text.AsSpan();
        while (rest.IndexOf('[') is var start and >= 0)
        {
            var end = rest.IndexOf(']');
            FillPart(rest[..start], facts, result);
            var optional = new StringBuilder();
            if (FillPart(rest[(start + 1)..end], facts, optional)) result.Append(optional);
            rest = rest[(end + 1)..];
        }

        FillPart(rest, facts, result);
        return result.ToString();
    }

    /// <summary>Fills a part of the sentence; false where a fact is missing.</summary>
    private static bool FillPart(ReadOnlySpan<char> part, FactSet facts, StringBuilder result)
    {
        var isWhole = true;
        while (part.IndexOf('{') is var start and >= 0)
        {
            var end = part.IndexOf('}');
            var gap = part[(start + 1)..end].ToString();
            var value = facts.Find(NameOf(gap));
            isWhole &= value is not (null or false);
            result.Append(part[..start]).Append(value is null ? "" : Fill(gap, value));
            part = part[(end + 1)..];
        }

        result.Append(part);
        return isWhole;
    }

    private static string Fill(string gap, object value)
    {
        var name = NameOf(gap);
        var how = gap[name.Length..];
        if (how.Length == 0) return Words.Text(value);
        var choice = how[1..].Split('|');
        return how[0] switch
        {
            ':' => $"{Words.Text(value)} {(IsOne(value) ? choice[0] : choice[1])}",
            '?' => IsOne(value) ? choice[0] : choice[1],
            '&' => string.Join(" and ", Many(value)),
            ';' => string.Join("; ", Many(value)),
            '#' => Limited(Many(value), int.Parse(choice[0], CultureInfo.InvariantCulture)),
            '%' => Sizes.Text(Convert.ToInt64(value, CultureInfo.InvariantCulture)),
            '^' => Words.Capital(Words.Text(value)),
            _ => throw new FormatException($"A gap says {gap}.")
        };
    }

    private static string NameOf(string gap)
    {
        var end = gap.AsSpan().IndexOfAny(Signs);
        return end < 0 ? gap : gap[..end];
    }

    private static bool IsOne(object value) => value switch
    {
        bool yes => yes,
        ICollection many => many.Count == 1,
        IEnumerable many and not string => many.Cast<object>().Count() == 1,
        _ => Convert.ToInt64(value, CultureInfo.InvariantCulture) == 1
    };

    private static List<string> Many(object value) => [.. ((IEnumerable)value).Cast<object>().Select(Words.Text)];

    private static string Limited(List<string> many, int limit)
    {
        var shown = string.Join(", ", many.Take(limit));
        return many.Count > limit ? $"{shown} and {many.Count - limit} more" : shown;
    }
}

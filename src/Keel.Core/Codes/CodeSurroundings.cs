using System.Text.RegularExpressions;

namespace Keel.Core.Codes;

/// <summary>
/// What stands around a code and has the form of one: parameters of a stop, places in device paths, versions, identifiers.
/// </summary>
internal static partial class CodeSurroundings
{
    /// <summary>The text without numbers that are certainly no codes.</summary>
    /// <param name="small">The text, in small letters.</param>
    public static string Without(string small)
    {
        var text = Identifiers().Replace(small, " ");
        text = Places().Replace(text, place => SaysCode().IsMatch(place.Groups["word"].Value) ? place.Value : " ");
        text = Versions().Replace(
            text,
            version => version.Value.StartsWith("0000.", StringComparison.Ordinal) ? version.Value : " ");
        text = Labelled().Replace(text, " ");
        return Parameters().Replace(text, "${code}");
    }

    /// <summary>True where a text has a parameter of a stop, by its label.</summary>
    public static bool HasLabelledParameter(string small) => Labelled().IsMatch(small);

    /// <summary>The numbers in brackets, parted by commas: the parameters of a stop, or a stop with its parameters.</summary>
    [GeneratedRegex(@"\([ ]*(?:0x)?[0-9a-f`]+(?:[ ]*,[ ]*(?:0x)?[0-9a-f`]+)+[ ]*\)?")]
    public static partial Regex Lists();

    [GeneratedRegex("[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}")]
    private static partial Regex Identifiers();

    /// <summary>
    /// A word with numbers in brackets directly behind it: <c>pciroot(0x0)</c>, <c>multi(0)</c>; not "stop(0x7b)".
    /// </summary>
    [GeneratedRegex(@"(?<![0-9a-z_])(?<word>[a-z]+[0-9]*)\([^()]*\)")]
    private static partial Regex Places();

    [GeneratedRegex("(?:code|stop|error|status|check|bsod|screen)$")]
    private static partial Regex SaysCode();

    /// <summary>Numbers with points in them: 6.1.7601, 50.4.</summary>
    [GeneratedRegex(@"(?<![0-9a-z.])[0-9]{1,5}(?:\.[0-9]{1,5})+(?![0-9a-z])")]
    private static partial Regex Versions();

    /// <summary>"BCP2: C000009C", "Parameter 1: 0x4", "Arg2: 0".</summary>
    [GeneratedRegex(@"\b(?:bcp|p|arg|argument|param|parameter)[ ]?[1-4][ ]?[:=]?[ ]?(?:0x)?[0-9a-f`]+\b")]
    private static partial Regex Labelled();

    /// <summary>What follows a number directly, each with its mark, or alone in brackets.</summary>
    [GeneratedRegex(@"(?<!\([^()]*)(?<code>\b0x[0-9a-fo]{2,})(?:[ ,;:]*\([ ]*(?:0x)?[0-9a-f`]+[ ]*\)|(?:[ ,;]+0x[0-9a-f`]+)+)")]
    private static partial Regex Parameters();
}

using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Core.Chain;
using Keel.Core.Codes;
using Keel.Core.Mending;

namespace Keel.Cli.Views;

/// <summary>Shows what a startup error means.</summary>
internal sealed class ExplainView(Output output)
{
    private const int FindingsShown = 4;

    /// <param name="finding">The id of the finding that may have been meant; null where none is near.</param>
    public void Show(CodeMatch match, string? finding)
    {
        if (output.IsJson)
        {
            Print(match, match.Errors.Count > 0 ? AllFindings.LeadingTo(match.Errors[0].Id) : []);
            return;
        }

        if (match.Errors.Count == 0)
        {
            if (match.IsParameterOnly)
            {
                output.Paragraph($"\"{match.Input}\" is a parameter of a stop code, not the code itself.");
                output.Paragraph("Type the number behind STOP or BCCode, as in:", "keel explain stop 0x7b");
                return;
            }

            if (finding is not null)
            {
                output.Paragraph($"\"{match.Input}\" is not known here.");
                output.Paragraph("Did you mean this finding?", $"keel explain {finding}");
                return;
            }

            output.Paragraph($"\"{match.Input}\" is not known here, and nothing near it is.");
            output.Paragraph(
                "Check the digits, or type a few words of what the screen says: keel explain missing operating system");
            return;
        }

        if (match.IsChoice)
        {
            ShowChoice(match);
            return;
        }

        if (match.Guessed)
        {
            var near = match.Errors.Count == 1
                ? "this is the nearest"
                : $"{match.Errors.Count} errors are near it, the nearest first";
            output.Paragraph($"\"{match.Input}\" is a guess: {near}.", style: "yellow");
        }

        foreach (var error in match.Errors) ShowOne(error, isFirst: error == match.Errors[0], whole: error == match.Errors[0]);
    }

    /// <summary>Several codes that may be meant: none of them is the answer.</summary>
    private void ShowChoice(CodeMatch match)
    {
        output.Paragraph(
            $"\"{match.Input}\" is not known here. It may be one of {match.Errors.Count}, by a slip in the digits:",
            style: "yellow");
        foreach (var (error, number) in match.Errors.Select((error, index) => (error, index + 1)))
            output.Paragraph($"{number}. {Name(error)}: {error.Meaning}", indent: 2, hang: 3);
        output.Line();
        var example = match.Errors[0].Id.Split(' ')[^1];
        output.Paragraph("Look at the screen again, and type the one that it is:", $"keel explain {example}");
    }

    /// <summary>A kind of finding: what is wrong, what a machine with it shows, and what is done about it.</summary>
    public void Show(string input, FindingKind kind)
    {
        if (output.IsJson)
        {
            Print(new CodeMatch(input, [], Guessed: false), [kind]);
            return;
        }

        output.Paragraph($"{kind.Id}: {kind.What}", style: "bold");
        var place = kind.IsOfAnyLink ? "any link" : $"the link {kind.Link.Id()}";
        output.Paragraph($"It is found at {place}; {Weight(kind.Severity)}.");
        if (kind.Shows.Length > 0)
        {
            output.Heading("A machine with it shows, most likely first");
            foreach (var screen in kind.Shows) output.Paragraph(screen, indent: 2, hang: 2);
        }

        output.Heading("Next");
        output.Paragraph(
            kind.Severity == Severity.Note && kind.Beyond is null ? "Nothing has to be done about it."
                : Plan.IsMendable(kind) ? "keel mend DISK"
                : kind.Beyond ?? "keel has no repair for it; 'keel diagnose DISK' says what to do.",
            indent: 2,
            hang: 2);
    }

    private static void Print(CodeMatch match, IReadOnlyList<FindingKind> findings) => KeelJson.Print(
        new ExplainDocument(
            match.Input,
            match.Guessed,
            match.Errors,
            [.. findings.Select(kind => new KindDocument(
                kind.Id,
                kind.IsOfAnyLink ? "any" : kind.Link.Id(),
                ToDocument.Word(kind.Severity),
                kind.What,
                kind.Shows,
                Plan.IsMendable(kind)))]),
        KeelJson.Default.ExplainDocument);

    private static string Weight(Severity severity) => severity switch
    {
        Severity.Error => "a start fails by it",
        Severity.Warning => "a start may fail by it",
        _ => "a start does not fail by it"
    };

    private void ShowOne(StartupError error, bool isFirst, bool whole)
    {
        if (!isFirst) output.Line();
        if (error.Meaning.Length == 0)
        {
            output.Paragraph($"{Name(error)}: a known code, and not one about starting.", style: "bold");
            output.Paragraph("keel has no explanation of its own for it. Where it stops a start nevertheless, look at the disk:");
            output.Command(error.Next[0]);
            return;
        }

        output.Paragraph($"{Name(error)}: {error.Meaning}", style: "bold");
        if (!whole) return;
        output.Paragraph(
            error.Links.Count == 0 ? "It points past the boot chain." : $"It points at: {string.Join(", ", error.Links)}");
        if (AllFindings.LeadingTo(error.Id) is { Count: > 0 } findings)
        {
            var named = string.Join(", ", findings.Take(FindingsShown).Select(kind => kind.Id));
            var more = findings.Count > FindingsShown ? $" and {findings.Count - FindingsShown} more" : "";
            output.Paragraph($"What keel finds where it comes from the disk: {named}{more}");
        }

        output.Heading("Usual causes, most likely first");
        foreach (var (cause, number) in error.Causes.Select((cause, index) => (cause, index + 1)))
        {
            output.Paragraph($"{number}. {cause.Cause}", indent: 2, hang: 3);
            output.Paragraph($"seen by:  {cause.Proof}", indent: 5, hang: 10);
            output.Paragraph($"do:       {cause.Remedy}", indent: 5, hang: 10);
        }

        output.Line();
        foreach (var next in error.Next) output.Paragraph("Next:", next);
    }

    internal static string Name(StartupError error) => error.Kind switch
    {
        "status" or "stop" => $"{error.Id} ({error.Status})",
        _ => $"\"{error.Id}\""
    };
}

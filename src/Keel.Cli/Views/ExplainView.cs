using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Core.Codes;

namespace Keel.Cli.Views;

/// <summary>Shows what a startup error means.</summary>
internal sealed class ExplainView(Output output)
{
    public void Show(CodeMatch match)
    {
        if (output.IsJson)
        {
            KeelJson.Print(new ExplainDocument(match.Input, match.Guessed, match.Errors), KeelJson.Default.ExplainDocument);
            return;
        }

        if (match.Errors.Count == 0)
        {
            output.Paragraph($"\"{match.Input}\" is not known here, and nothing near it is.");
            output.Paragraph(
                "Check the digits, or type a few words of what the screen says: keel explain missing operating system");
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
        output.Heading("Usual causes, most likely first");
        foreach (var (cause, number) in error.Causes.Select((cause, index) => (cause, index + 1)))
        {
            output.Paragraph($"{number}. {cause.Cause}", indent: 2, hang: 3);
            output.Paragraph($"seen by:  {cause.Proof}", indent: 5, hang: 10);
            output.Paragraph($"do:       {cause.Remedy}", indent: 5, hang: 10);
        }

        output.Heading("Next");
        foreach (var next in error.Next) output.Paragraph(next, indent: 2);
    }

    internal static string Name(StartupError error) => error.Kind switch
    {
        "status" or "stop" => $"{error.Id} ({error.Status})",
        _ => $"\"{error.Id}\""
    };
}

using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Chain;
using Keel.Core.Codes;

namespace Keel.Cli.Commands;

/// <summary>keel explain CODE-OR-MESSAGE</summary>
internal static class ExplainCommand
{
    public static Command Create(CommonOptions common)
    {
        var words = new Argument<string[]>("CODE-OR-MESSAGE")
        {
            Description = "a code such as c0000034 or 0x7B, what the screen says, or a finding of keel such as store-missing",
            Arity = ArgumentArity.OneOrMore
        };
        var command = new Command("explain", "What a startup error means; needs no disk.") { words };
        command.SetAction(parsed =>
        {
            var typed = string.Join(' ', parsed.GetValue(words)!);
            var output = common.OutputOf(parsed);
            var view = new ExplainView(output);
            if (AllFindings.Named(typed) is { } kind)
            {
                view.Show(typed, kind);
                return 0;
            }

            var match = Chosen(StartupErrors.Load().Find(typed), output);
            view.Show(match, NearWords.Nearest(typed, AllFindings.Kinds.Select(known => known.Id)));
            return match.Errors.Count > 0 ? 0 : 1;
        });
        return command;
    }

    /// <summary>Where several codes are as near, the technician is asked at a terminal; elsewhere all are told.</summary>
    private static CodeMatch Chosen(CodeMatch match, Output output)
    {
        if (!match.IsChoice || output.IsJson || !Output.CanAsk || Console.IsOutputRedirected) return match;
        var question = $"\"{match.Input}\" is not known here. Which of these may it be?";
        return new ChoiceMenu(output).Ask(question, [.. match.Errors.Select(ExplainView.Name)]) is { } chosen
            ? match.Choose(match.Errors[chosen])
            : match;
    }
}

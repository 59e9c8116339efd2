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
            var view = new ExplainView(common.OutputOf(parsed));
            if (AllFindings.Named(typed) is { } kind)
            {
                view.Show(typed, kind);
                return 0;
            }

            var match = StartupErrors.Load().Find(typed);
            view.Show(match, NearWords.Nearest(typed, AllFindings.Kinds.Select(known => known.Id)));
            return match.Errors.Count > 0 ? 0 : 1;
        });
        return command;
    }
}

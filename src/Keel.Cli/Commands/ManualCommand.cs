using System.CommandLine;
using Keel.Cli.Views;
using Keel.Core.Errors;

namespace Keel.Cli.Commands;

/// <summary>keel manual [COMMAND]: the manual page, for man(1), made from the descriptions that the help has.</summary>
internal static class ManualCommand
{
    public static Command Create(CommonOptions common)
    {
        var name = new Argument<string?>("COMMAND")
        {
            Description = "the page of this command; else that of keel",
            Arity = ArgumentArity.ZeroOrOne
        };
        var command = new Command("manual", "A manual page: keel manual store | man -l -") { name };
        command.SetAction(parsed =>
        {
            var root = new CommandTree(common).Whole();
            var wanted = parsed.GetValue(name);
            var about = wanted is null ? root : root.Subcommands.FirstOrDefault(one => one.Name == wanted);
            if (about is null)
            {
                throw new WrongUsageException(
                    $"There is no command \"{wanted}\".",
                    "",
                    "'keel --help' lists the commands.");
            }

            Console.Out.Write(new ManualPage(root).Of(about));
            return 0;
        });
        return command;
    }
}

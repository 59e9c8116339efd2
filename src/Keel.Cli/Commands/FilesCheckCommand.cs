using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Requests;
using Keel.Core.Windows;

namespace Keel.Cli.Commands;

/// <summary>keel files check: whether files of Windows are what their maker signed, and copies that are.</summary>
internal static class FilesCheckCommand
{
    public static Command Create(CommonOptions common)
    {
        var writing = new WritingOptions(common);
        var scope = new Option<string>("--scope")
        {
            Description = "start (what a start goes through), system (the system's folders), all (the component store too)",
            HelpName = "SCOPE",
            DefaultValueFactory = _ => "start"
        };
        scope.TakesOneOf("start", "system", "all");
        var mend = new Option<bool>("--mend") { Description = "put copies that are as signed in the place of the others" };
        var from = SourceOptions.From();
        var revision = SourceOptions.OtherRevision();
        var every = new Option<bool>("--all") { Description = "name every file, also those that are as signed" };
        var command = new Command("check", "Whether the files of Windows are what their maker signed.")
        {
            scope,
            mend,
            from,
            revision,
            every
        };
        writing.AddTo(command);
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            var progress = output.Progress("checking");
            var terms = new FileCheckTerms
            {
                Scope = Enum.Parse<FileScope>(parsed.GetValue(scope)!, ignoreCase: true),
                Sources = SourceOptions.Of(parsed.GetValue(from)!),
                OtherRevision = parsed.GetValue(revision),
                Progress = (what, number, count) => progress(what, number, Math.Max(number, count))
            };
            if (parsed.GetValue(mend)) return writing.Run(parsed, machine => FileCheck.Mend(machine, terms));
            using var machine = writing.Open(parsed);
            var result = output.Working("checking the files", () => FileCheck.Of(machine, terms));
            new FileCheckView(output).Show(machine, result, Again(parsed, scope, from), parsed.GetValue(every));
            common.TellReads(parsed, machine);
            return result.Wrong.Count == 0 ? 0 : 1;
        });
        return command;
    }

    /// <summary>The options of the check, to be typed again.</summary>
    private static string Again(ParseResult parsed, Option<string> scope, Option<string[]> from) =>
        (parsed.GetValue(scope) is not "start" and var wide ? $" --scope {wide}" : "")
            + SourceOptions.Words(parsed.GetValue(from)!);
}

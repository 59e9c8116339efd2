using System.CommandLine;
using System.CommandLine.Help;
using Keel.Cli.Commands;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Logbook;

HostStreams.OpenMissing();
using var common = new CommonOptions();
var guarded = new GuardedOutput(Console.Out);
Console.SetOut(guarded);
var output = Output.BeforeParsing(args);
try
{
    if (args.Length == 0 && Output.CanAsk && !Console.IsOutputRedirected)
    {
        UnlockOptions.FillFromUsualList(common.Keys, output);
        return new GuidedSession(output, CommonOptions.LogbookIn(RepairLogbook.UsualFolder()), common.Keys).Run();
    }

    if (CompletionCommand.IsAsked(args))
    {
        CompletionCommand.Answer(common, args);
        return 0;
    }

    if (args.Length == 0) args = ["--help"];
    var tree = new CommandTree(common);
    var parsed = new CommandLine(tree).Read(args);
    output = common.OutputOf(parsed);
    if (parsed.Action is HelpAction)
    {
        new HelpView(output).Show(tree.Whole(), parsed.CommandResult.Command);
        return 0;
    }

    using var pager = parsed.GetValue(common.Pager) && !Console.IsOutputRedirected ? Pager.Start(guarded) : null;
    return parsed.Invoke(new InvocationConfiguration
    {
        EnableDefaultExceptionHandler = false,
        ProcessTerminationTimeout = null
    });
}
catch (KeelException e)
{
    new ErrorView(output, guarded.HasWritten).Show(e);
    return e.ExitCode;
}
catch (OutputFailedException e)
{
    new ErrorView(output, guarded.HasWritten).Show(
        new UnreadableException(
            "The output could not be written.",
            $"The system says: {e.Message}",
            output.Written ?? "Nothing was written to a disk. Give the output another place."));
    return 3;
}
catch (Exception e) when (e is not OutOfMemoryException)
{
    new ErrorView(output, guarded.HasWritten).Show(new UnreadableException(
        $"keel met something that it was not made for ({e.GetType().Name}).",
        e.Message.ReplaceLineEndings(" "),
        $"{output.Written ?? "Nothing was written by this command."} Please report it to the project, with the command you "
            + "ran."));
    return 3;
}

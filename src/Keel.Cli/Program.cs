using System.CommandLine;
using Keel.Cli.Commands;
using Keel.Cli.Terminal;
using Keel.Core.Errors;

var common = new CommonOptions();
var root = new RootCommand(
    "keel says why a Windows machine does not start, and mends its boot chain: on its disk, or on an image of it.")
{
    ExplainCommand.Create(common),
    SurveyCommand.Create(common),
    DiagnoseCommand.Create(common),
    MendCommand.Create(common),
    MbrCommand.Create(common),
    SectorCommand.Create(common),
    StoreCommand.Create(common),
    FilesCommand.Create(common),
    FirmwareCommand.Create(common),
    ServicesCommand.Create(common),
    UndoCommand.Create(common),
    LogbookCommand.Create(common),
    DrillCommand.Create(common)
};
common.AddTo(root);
Console.SetOut(new GuardedOutput(Console.Out));
var screen = Screen.BeforeParsing(args);
try
{
    var parsed = root.Parse(args);
    if (parsed.Errors.Count > 0)
    {
        var what = parsed.UnmatchedTokens.Count > 0
            ? $"There is no \"{parsed.UnmatchedTokens[0]}\" here."
            : ParseMessage.OneLine(parsed.Errors[0].Message);
        throw new WrongUsageException(
            what,
            "",
            $"Run 'keel {(parsed.CommandResult.Command == root ? "" : parsed.CommandResult.Command.Name + " ")}--help' for "
                + "what it takes.");
    }

    screen = Screen.For(parsed, common);
    return parsed.Invoke(new InvocationConfiguration { EnableDefaultExceptionHandler = false });
}
catch (KeelException e)
{
    screen.Error(e);
    return e.ExitCode;
}
catch (OutputFailedException e)
{
    screen.Error(
        new UnreadableException(
            "The output could not be written.",
            $"The system says: {e.Message}",
            screen.Written ?? "Nothing was written to a disk. Give the output another place."));
    return 3;
}
catch (Exception e) when (e is not OutOfMemoryException)
{
    screen.Error(new UnreadableException(
        $"keel met something that it was not made for ({e.GetType().Name}).",
        e.Message.ReplaceLineEndings(" "),
        $"{screen.Written ?? "Nothing was written by this command."} Please report it to the project, with the command you "
            + "ran."));
    return 3;
}

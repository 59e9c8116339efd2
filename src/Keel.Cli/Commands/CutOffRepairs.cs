using Keel.Cli.Terminal;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Logbook;
using Keel.Core.Machines;

namespace Keel.Cli.Commands;

/// <summary>Repairs of a machine that were cut off: said first of all, and in the way of any other.</summary>
internal sealed class CutOffRepairs(Output output, RepairLogbook logbook)
{
    private readonly RepairRun run = new(logbook, TimeProvider.System, ProgramVersion.Text);

    /// <summary>Refuses to write more to a machine that is between two states.</summary>
    /// <exception cref="StoppedHalfwayException">It is.</exception>
    public void Refuse(Machine machine)
    {
        if (run.CutOff(machine) is not { } found) return;
        var error = Commit.CutOff(found.Path, found.Record);
        throw new StoppedHalfwayException(error.What, error.Why, "To go back, or to complete it, type one of these:")
        {
            Commands = Commands(found.Path)
        };
    }

    /// <summary>Says it before anything else; gives the record's id, or null where nothing was cut off.</summary>
    public string? Tell(Machine machine)
    {
        if (run.CutOff(machine) is not { } found) return null;
        if (output.IsJson) return found.Record.Document.Id;
        output.Paragraph(
            $"CUT OFF: repair {found.Record.Document.Id} of this machine stopped while it was being "
                + $"{(found.Record.State == RecordState.Writing ? "written" : "taken back")}. To go back, or to complete it:",
            style: "red");
        if (!logbook.IsOwn(found.Record))
            output.Paragraph("That record is from elsewhere: it does not carry the seal of this computer, or this stick.");
        foreach (var command in Commands(found.Path)) output.Command(command);
        output.Line();
        return found.Record.Document.Id;
    }

    private IReadOnlyList<string> Commands(string path) => [output.Commands.Undo(path), output.Commands.Finish(path)];
}

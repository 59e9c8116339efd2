using System.CommandLine;
using Keel.Cli.Views;
using Keel.Core.Errors;
using Keel.Core.History;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Volumes;

namespace Keel.Cli.Commands;

/// <summary>keel history [DISK]</summary>
internal static class HistoryCommand
{
    public static Command Create(CommonOptions common)
    {
        var options = new MachineOptions(common);
        var volume = CommonOptions.Volume("the volume of the Windows to ask; the one that is started where none is named");
        var utc = new Option<bool>("--utc") { Description = "times in UTC, not as the machine's own clock showed them" };
        var all = CommonOptions.All("every event of the log, also those that are not about starts, as far back as it goes");
        var command = new Command(
            "history",
            "What the machine remembers of its starts, newest first: stops, changes, disk errors. Writes nothing.")
        {
            volume,
            utc,
            all
        };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            var output = common.OutputOf(parsed);
            var scope = parsed.GetValue(all) ? HistoryScope.Everything : HistoryScope.Usual;
            var asked = parsed.GetValue(volume) is { } number ? BootCodeRequests.VolumeOrSystem(machine, number) : null;
            var memory = output.Working(
                "reading the history",
                () => WindowsMemory.Of(machine, scope, asked) ?? BehindARepair(machine, scope, asked))
                ?? throw new UnreadableException(
                    asked is null ? "There is no Windows to ask." : $"There is no Windows on {asked}.",
                    $"A Windows keeps its own history, and no installation was found that can be read.{Locks.Told(machine)}",
                    Locks.TodoOr(machine, "'keel survey' shows the volumes and what is on them."));
            new HistoryView(output, parsed.GetValue(utc), parsed.GetValue(all)).Show(machine, memory);
            common.TellReads(parsed, machine);
            return 0;
        });
        return command;
    }

    /// <summary>Where the volume can't be read as it is: what it remembers once a repair was tried out in memory.</summary>
    private static WindowsMemory? BehindARepair(Machine machine, HistoryScope scope, DiskVolume? asked) =>
        asked is null && Plan.For(machine, RepairTerms.Usual).Steps.Count > 0 ? WindowsMemory.Of(machine, scope) : null;
}

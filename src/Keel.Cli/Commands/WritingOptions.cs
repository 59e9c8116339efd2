using System.CommandLine;
using Keel.Cli.Views;
using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Cli.Commands;

/// <summary>The disk, --yes and --preview of a command that writes one thing outright, and its way through.</summary>
/// <param name="isDiskNeeded">Whether other words follow the disk, so that it can't be left out.</param>
internal sealed class WritingOptions(CommonOptions common, bool isDiskNeeded = false)
{
    private readonly MachineOptions machineOptions = new(common, isDiskNeeded);
    private readonly Option<bool> yes = CommonOptions.Yes();
    private readonly Option<bool> preview = CommonOptions.Preview();

    public void AddTo(Command command)
    {
        machineOptions.AddTo(command);
        command.Options.Add(yes);
        command.Options.Add(preview);
    }

    public Machine Open(ParseResult parsed) => machineOptions.Open(parsed);

    /// <summary>Whether --yes was given.</summary>
    public bool IsAgreed(ParseResult parsed) => parsed.GetValue(yes);

    /// <summary>Makes the plan, shows it, asks, writes, and gives the exit code.</summary>
    public int Run(ParseResult parsed, Func<Machine, Plan> request)
    {
        var output = common.OutputOf(parsed);
        using var machine = Open(parsed);
        var diagnosis = output.Working("making the plan", () => Diagnosis.OfRequest(machine, request(machine)));
        return new Repair(output, common.OpenLogbook(parsed)) { Yes = parsed.GetValue(yes), Preview = parsed.GetValue(preview) }
            .Run(machine, diagnosis, RepairTerms.Usual, new MendView(output));
    }
}

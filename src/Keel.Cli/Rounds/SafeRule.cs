using Keel.Cli.Wording;
using Keel.Core.Errors;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Cli.Rounds;

/// <summary>What stands for a technician in a round: plans that may be carried out unread are agreed to, nothing else.</summary>
/// <param name="machine">The machine that is gone round to.</param>
internal sealed class SafeRule(Machine machine) : IRepairPartner
{
    public void AgreeToDisk(Machine failing)
    {
        if (failing.Disks.Any(disk => disk.ReadErrors.Any)) throw Refused("The disk has read errors.");
    }

    public Plan Agree(Plan plan) =>
        SafePlan.Holds(machine, plan) ? plan : throw Refused("A step of the plan is to be read first.");

    public void Agree(Step step) => throw Refused("The firmware's variables are changed by hand only.");

    public string Words(Step step) => Wording.Words.Of(step.Summary);

    public RepairRecord? While(Func<RepairRecord?> writing) => writing();

    private static RefusedException Refused(string why) =>
        new("Nothing was written.", why, "Look at this machine by itself: 'keel diagnose' shows the plan.");
}

using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Firmware;

namespace Keel.Core.Mending.Remedies;

/// <summary>Puts the firmware's entries right: one for the Windows boot manager, in the order, and none that lead nowhere.</summary>
internal sealed class CorrectFirmware : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [FirmwareEntryCheck.Missing, FirmwareEntryCheck.OrderWrong, FirmwareEntryCheck.Stale];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var variables = machine.Variables!;
        var entries = StartEntry.Of(machine);
        if (finding.Kind == FirmwareEntryCheck.Missing) return Attempt.Done(FirmwareRequests.AddWindows(machine, FirmwareRequests.UsualTitle, last: false, finding.Id));
        if (finding.Kind == FirmwareEntryCheck.Stale)
        {
            var stale = FirmwareEntryCheck.StaleOf(machine, entries);
            foreach (var entry in stale) variables.Drop(entry.Number);
            return Attempt.Done(new Step(Link.FirmwareEntry, finding.Id, $"Drop {stale.Count} firmware {(stale.Count == 1 ? "entry" : "entries")} whose disk or file is gone.", [.. stale.Select(entry => $"{entry.Name} \"{entry.Title}\": {entry.Describe()}"), $"looked at: {string.Join(", ", machine.Disks.Select(disk => disk.Path))}; if the machine has other disks, name them with --with first"]));
        }

        var windows = entries.First(entry => entry.IsWindowsOf(machine));
        if (!windows.Option!.IsActive) variables.SetEntry(windows.Number, windows.Option with { Attributes = windows.Option.Attributes | LoadOption.ActiveBit });
        variables.Order = [windows.Number, .. variables.Order.Where(number => number != windows.Number)];
        return Attempt.Done(new Step(Link.FirmwareEntry, finding.Id, $"Put {windows.Name} \"{windows.Title}\" first in the firmware's start order.", [FirmwareRequests.OrderLine(variables)]));
    }
}

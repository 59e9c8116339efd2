using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Firmware;
using Keel.Core.Machines;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Puts the firmware's entries right: one for the Windows boot manager, in the order, and none that lead nowhere.
/// </summary>
internal sealed class CorrectFirmware : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        FirmwareEntryCheck.Missing,
        FirmwareEntryCheck.OrderWrong,
        FirmwareEntryCheck.Stale
    ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var variables = machine.Variables!;
        var entries = StartEntry.Of(machine);
        if (finding.Kind == FirmwareEntryCheck.Missing)
        {
            // A disk of this computer that was not named may be what it starts from: its entry keeps its place before the new
            // one.
            var startsElsewhere = entries.Any(entry => entry is
            {
                Place: not null,
                Option: { IsActive: true, HardDrive: not null },
                Target: StartTarget.NotJudged
            });
            return Attempt.Done(FirmwareSteps.AddWindows(machine, FirmwareSteps.UsualTitle, startsElsewhere, finding.Id));
        }

        if (finding.Kind == FirmwareEntryCheck.Stale)
        {
            var stale = FirmwareEntryCheck.StaleOf(machine, entries);
            foreach (var entry in stale) variables.Drop(entry.Number);
            return Attempt.Done(new Step(
                Link.FirmwareEntry,
                finding.Id,
                Remark.Of("step.drop-stale-entries", Fact.EntryCount.Is(stale.Count)),
                [
                    .. stale.Select(FirmwareSteps.EntryLine),
                    Remark.Of("line.disks-looked-at", Fact.Disks.Is([.. machine.Disks.Select(disk => disk.Path)]))
                ])
            { IsGuess = true });
        }

        var windows = entries.First(entry => entry.IsWindowsOf(machine));
        if (!windows.Option!.IsActive)
        {
            variables.SetEntry(
                windows.Number,
                windows.Option with { Attributes = windows.Option.Attributes | LoadOption.ActiveBit });
        }

        variables.Order = [windows.Number, .. variables.Order.Where(number => number != windows.Number)];
        var summary = Remark.Of("step.first-in-order", Fact.FirmwareEntry.Is(windows.Name), Fact.Title.Is(windows.Title));
        return Attempt.Done(new Step(Link.FirmwareEntry, finding.Id, summary, FirmwareSteps.OrderLine(variables)));
    }
}

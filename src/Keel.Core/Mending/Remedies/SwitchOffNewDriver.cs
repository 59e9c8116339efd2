using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Switches a bad driver off of which there is no sound copy, where the machine remembers that it started well before that driver
/// came: so it can do so again without it.
/// </summary>
internal static class SwitchOffNewDriver
{
    /// <summary>The step; null where the driver may be needed, or nothing says that the machine started without it.</summary>
    public static Attempt? TryFor(Machine machine, Finding finding)
    {
        if (finding.Link != Link.StartDrivers
            || finding.Seen.Facts.Get(Fact.Driver) is not { } driver
            || StartDriversCheck.MayCarryDisk(driver)
            || machine.Memory?.History is not { Judgement: { LastGoodStart: { } good } judgement, Zone: { } zone }
            || judgement.ChangeOf(driver) is not { Time: { } installed }
            || StartedWindows.Of(machine).Windows is not { } windows
            || machine.SystemHive is not { Condition: SystemHiveCondition.Sound } hive)
        {
            return null;
        }

        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.switch-off-new-driver", Fact.Driver.Is(driver)),
            [
                .. ServiceSettings.Set(windows, hive, driver, ServiceStart.Disabled),
                Remark.Of(
                    "line.started-without",
                    Fact.Driver.Is(driver),
                    Fact.At.Is(zone.Local(good)),
                    Fact.Written.Is(zone.Local(installed)))
            ])
        { IsGuess = true });
    }
}

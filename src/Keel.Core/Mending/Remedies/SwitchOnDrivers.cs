using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>Switches drivers on that reach the disk.</summary>
internal sealed class SwitchOnDrivers : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [StartDriversCheck.StorageDisabled, StartDriversCheck.Disabled];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (StartedWindows.Of(machine).Windows is not { } windows
            || machine.SystemHive is not { Condition: SystemHiveCondition.Sound } hive)
        {
            return Attempt.Refused("hive-first");
        }

        var drivers = hive.Services().Where(service => service.IsDriver).ToList();
        var off = finding.Kind == StartDriversCheck.Disabled
            ? StartDriversCheck.OnTheWayOff(windows, drivers)
            : StartDriversCheck.ControllersOff(drivers);
        var withFile =
            off.Where(driver => driver.FileIn(windows.Folder) is { } path && windows.Files.Find(path) is not null).ToList();
        if (withFile.Count == 0) return Attempt.Refused("drivers-without-files");
        var lines = withFile.SelectMany(driver => ServiceSettings.Set(windows, hive, driver.Name, ServiceStart.Boot)).ToList();
        return Attempt.Done(
            new Step(
                finding.Link,
                finding.Id,
                Remark.Of("step.switch-on-drivers", Fact.Names.Is([.. withFile.Select(driver => driver.Name)])),
                lines));
    }
}

using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Windows;
using Keel.Core.Windows.Drivers;
using Processor = System.Reflection.PortableExecutable.Machine;

namespace Keel.Core.Mending.Remedies;

/// <summary>Brings the drivers of disk controllers back that the installation has staged in its own driver store.</summary>
internal sealed class InstallController : IRemedy
{
    private const string Store = @"System32\DriverStore\FileRepository";

    /// <summary>More are a store full of strangers, and not what one machine needs.</summary>
    private const int MostDrivers = 6;

    public IReadOnlyList<FindingKind> Mends => [StartDriversCheck.ControllerAbsent];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (StartedWindows.Of(machine).Windows is not { } windows
            || machine.SystemHive is not { Condition: SystemHiveCondition.Sound, ControlSet: not null } hive)
        {
            return Attempt.Refused("hive-first");
        }

        var processor = machine.Processor ?? Processor.Amd64;
        var build = windows.InstallationIn(machine)?.Build;
        var tree = new VolumeTree(windows.Volume, $@"{windows.Folder}\{Store}");
        var fit = DriverSource.In(tree, processor)
            .Where(source => DriverInstall.WhyNot(windows, source, needsSignature: true) is null)
            .DistinctBy(source => source.Package.Service.Name, StringComparer.OrdinalIgnoreCase)
            .Take(MostDrivers)
            .ToList();
        if (fit.Count == 0) return Attempt.Refused("controller-not-staged", Fact.Path.Is($@"{windows.Folder}\{Store}"));
        var isGuess = fit.TrueForAll(source => DriverInstall.IsGuess(windows, source, build));
        var lines = new List<Remark>();
        foreach (var source in fit)
            lines.AddRange(DriverInstall.Apply(StartedWindows.Of(machine).Windows!, hive, source, build));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.install-drivers", Fact.Names.Is([.. fit.Select(source => source.Package.Service.Name)])),
            lines)
        { IsGuess = isGuess, IsUnproven = isGuess });
    }
}

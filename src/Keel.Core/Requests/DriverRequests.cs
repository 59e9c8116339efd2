using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Windows;
using Keel.Core.Windows.Drivers;
using Processor = System.Reflection.PortableExecutable.Machine;

namespace Keel.Core.Requests;

/// <summary>Drivers of disk controllers that are brought into a Windows that is not running.</summary>
public static class DriverRequests
{
    /// <summary>A plan that installs the driver of a disk controller from a package.</summary>
    /// <param name="machine">The machine.</param>
    /// <param name="trees">Where the package is.</param>
    /// <param name="name">The driver or its INF, where there are several; null for the only one.</param>
    /// <exception cref="RefusedException">None fits, or several do; says which and why.</exception>
    public static Plan Install(Machine machine, IReadOnlyList<IFileTree> trees, string? name)
    {
        var (windows, hive) = Started(machine);
        var processor = machine.Processor ?? Processor.Amd64;
        var found = trees.SelectMany(tree => DriverSource.In(tree, processor)).ToList();
        var asked = found.Where(source => name is null || IsCalled(source, name)).ToList();
        if (asked.Count == 0) throw None(found, name, processor);
        var needsSignature = processor != Processor.I386;
        var fit = asked.Where(source => DriverInstall.WhyNot(windows, source, needsSignature) is null).ToList();
        if (fit.Count == 0) throw Unfit(asked[0], DriverInstall.WhyNot(windows, asked[0], needsSignature)!);
        if (fit.Count > 1)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"Several drivers are there: {string.Join(", ", fit.Select(Named))}.",
                "Name the one for this machine's controller: --driver NAME.");
        }

        var build = windows.InstallationIn(machine)?.Build;
        return Plan.ForRequest(machine, id =>
        {
            var (now, hiveNow) = Started(machine);
            var isGuess = DriverInstall.IsGuess(now, fit[0], build);
            return new Step(
                Link.StartDrivers,
                id,
                Remark.Of("step.install-drivers", Fact.Names.Is([fit[0].Package.Service.Name])),
                DriverInstall.Apply(now, hiveNow, fit[0], build))
            { IsGuess = isGuess, IsUnproven = isGuess };
        });
    }

    private static bool IsCalled(DriverSource source, string name) =>
        source.Package.Service.Name.Equals(name, StringComparison.OrdinalIgnoreCase)
            || source.Package.InfName.Equals(name, StringComparison.OrdinalIgnoreCase);

    private static string Named(DriverSource source) => $"{source.Package.Service.Name} ({source.Package.InfName})";

    private static RefusedException None(IReadOnlyList<DriverSource> found, string? name, Processor processor) => new(
        "Nothing was written.",
        found.Count > 0
            ? $"There is no driver {name} among {string.Join(", ", found.Take(6).Select(Named))}."
            : $"No INF there installs the driver of a disk controller on {Programs.ProgramFile.NameOf(processor)}.",
        found.Count > 0
            ? "Name one of them."
            : "Unpack the maker's download first: the folder must hold the INF, its .sys and its .cat.");

    private static RefusedException Unfit(DriverSource source, Remark why) => new(
        $"{Named(source)} can't be installed, and nothing was written.",
        "",
        "Bring the maker's driver for exactly this Windows and processor.")
    { Reason = why };

    private static (StartedWindows Windows, SystemHive Hive) Started(Machine machine)
    {
        var (started, why) = StartedWindows.Of(machine);
        var windows = started ?? throw new UnreadableException(
            "There is no Windows that a driver could be installed in.",
            "",
            Locks.TodoOr(machine, "Run 'keel diagnose' on the disk first."))
        { Reason = why };
        if (windows.IsNt5)
        {
            throw new RefusedException(
                "Nothing was written.",
                "This is a Windows of NT 5.",
                "Its own setup takes drivers from a diskette: F6 at its start.");
        }

        return machine.SystemHive is { ControlSet: not null, Condition: SystemHiveCondition.Sound } hive
            ? (windows, hive)
            : throw new UnreadableException(
                "No driver can be installed yet.",
                "The SYSTEM hive comes first.",
                "Run 'keel mend' on the disk.")
            { Reason = machine.SystemHive?.Seen };
    }
}

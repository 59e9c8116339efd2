using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>Start types of drivers and services, offline.</summary>
public static class ServiceRequests
{
    /// <summary>Those that a start hangs on, by name: drivers by what they do, services by what they say of themselves.</summary>
    public static IReadOnlySet<string> Needed(Machine machine, IReadOnlyList<WindowsService> services)
    {
        var (windows, _) = StartedWindows.Of(machine);
        return services
            .Where(service => windows is not null && service.IsDriver
                ? StartDriversCheck.IsNeeded(windows, service)
                : service.IsCritical)
            .Select(service => service.Name)
            .ToHashSet(StringComparer.OrdinalIgnoreCase);
    }

    /// <summary>The drivers and services of the Windows that is started.</summary>
    /// <exception cref="UnreadableException">Its SYSTEM hive can't be read.</exception>
    public static IReadOnlyList<WindowsService> List(Machine machine) => [.. Hive(machine, out _).Services()];

    /// <summary>Gives a driver or service another start type.</summary>
    public static Plan Change(Machine machine, string name, ServiceStart start)
    {
        var hive = Hive(machine, out var windows);
        if (!hive.Services().Any(service => service.Name.Equals(name, StringComparison.OrdinalIgnoreCase)))
        {
            var near = hive
                .Services()
                .Select(service => service.Name)
                .Where(other => other.StartsWith(name, StringComparison.OrdinalIgnoreCase))
                .Take(6)
                .ToList();
            throw new WrongUsageException(
                $"There is no driver or service \"{name}\".",
                near.Count > 0
                    ? $"There are {string.Join(", ", near)}."
                    : $"{hive.ControlSet} has {hive.Services().Count()} of them.",
                "'keel services list' shows their names.");
        }

        return Plan.ForRequest(
            machine,
            id =>
                new Step(
                    Link.StartDrivers,
                    id,
                    Remark.Of("step.start-type", Fact.Driver.Is(name), Fact.Start.Is(Words(start))),
                    [.. ServiceSettings.Set(windows, hive, name, start), .. Warnings(name, start)]));
    }

    /// <summary>What a later start of a driver may cost, where the way to the disk may lead through it.</summary>
    private static IEnumerable<Remark> Warnings(string name, ServiceStart start)
    {
        if (start != ServiceStart.Boot && StartDriversCheck.MayCarryDisk(name))
            yield return Remark.Of("line.driver-carries-disk", Fact.Driver.Is(name));
    }

    /// <summary>How a start type is called.</summary>
    public static string Words(ServiceStart start) => start switch
    {
        ServiceStart.Boot => "with the loader (boot)",
        ServiceStart.System => "with the kernel (system)",
        ServiceStart.Automatic => "automatically (automatic)",
        ServiceStart.OnDemand => "on demand (demand)",
        _ => "never (disabled)"
    };

    /// <summary>Writes the start type of a driver or service of the Windows that is started.</summary>
    internal static List<Remark> Set(Machine machine, string name, ServiceStart start)
    {
        var hive = Hive(machine, out var windows);
        return ServiceSettings.Set(windows, hive, name, start);
    }

    private static SystemHive Hive(Machine machine, out StartedWindows windows)
    {
        var (started, why) = StartedWindows.Of(machine);
        windows = started
            ?? throw new UnreadableException(
                "The drivers and services can't be read.",
                "",
                Locks.TodoOr(machine, "Run 'keel diagnose' on the disk first."))
            { Reason = why };
        return machine.SystemHive is { ControlSet: not null, Condition: SystemHiveCondition.Sound } hive
            ? hive
            : throw new UnreadableException(
                "The drivers and services can't be read.",
                "The SYSTEM hive comes first.",
                "Run 'keel mend' on the disk.")
            { Reason = machine.SystemHive?.Seen };
    }
}

using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Core.Machines;
using Keel.Core.Requests;
using Keel.Core.Windows;

namespace Keel.Cli.Views;

/// <summary>Shows drivers and services with their start types.</summary>
internal sealed class ServicesView(Output output)
{
    public void Show(Machine machine, IReadOnlyList<WindowsService> services, string? name, bool all)
    {
        var needed = ServiceRequests.Needed(machine, services);
        var shown = services
            .Where(service =>
                name is not null
                    ? service.Name.StartsWith(name, StringComparison.OrdinalIgnoreCase)
                    : all || (service.IsDriver && service.Effective is ServiceStart.Boot or ServiceStart.System))
            .OrderBy(service => service.Effective ?? ServiceStart.Disabled)
                .ThenBy(service => service.Name, StringComparer.OrdinalIgnoreCase)
                .ToList();
        if (output.IsJson)
        {
            KeelJson.Print(
                new ServicesDocument([.. shown.Select(service =>
                    new ServiceDocument(
                        service.Name,
                        Word(service.Effective),
                        service.Override is null ? null : Word(service.Start),
                        service.IsDriver,
                        service.IsCritical,
                        needed.Contains(service.Name),
                        service.Group,
                        service.ImagePath,
                        service.Title))]),
                KeelJson.Default.ServicesDocument);
            return;
        }

        var drivers = services.Count(service => service.IsDriver);
        output.Paragraph(
            $"{services.Count(service => service is { IsDriver: true, Effective: ServiceStart.Boot })} drivers start with the "
                + $"loader, {services.Count(service => service is { IsDriver: true, Effective: ServiceStart.System })} with "
                + $"the kernel; {drivers} drivers and {services.Count - drivers} services in all.",
            style: "bold");
        output.Columns([.. shown.Select(service => new (string, string?)[]
        {
            (service.Name, null),
            (Word(service.Effective), service.Effective == ServiceStart.Disabled ? "yellow" : null),
            (needed.Contains(service.Name) ? "needed" : "may fail", "grey"),
            (
                string.Join(
                    ", ",
                    ((string[])[
                        service.Group,
                        service.ImagePath,
                        service.Override is null ? "" : $"StartOverride counts, Start says {Word(service.Start)}"
                    ]).Where(text => text.Length > 0)),
                null)
        })]);
        if (shown.Count == 0) output.Paragraph($"None begins with \"{name}\".", indent: 2);
        if (name is null && !all)
        {
            output.Paragraph(
                "Change one:", output.Commands.ChangeService(machine));
        }
    }

    private static string Word(ServiceStart? start) =>
        start switch { null => "-", ServiceStart.OnDemand => "demand", { } known => known.ToString().ToLowerInvariant() };
}

using System.CommandLine;
using Keel.Cli.Views;
using Keel.Core.Requests;
using Keel.Core.Windows;

namespace Keel.Cli.Commands;

/// <summary>keel services list | change | install</summary>
internal static class ServicesCommand
{
    public static Command Create(CommonOptions common) =>
        new("services", "The drivers and services of the Windows that is started: when each starts, offline.")
        {
            List(common),
            Change(common),
            Install(common)
        };

    private static Command List(CommonOptions common)
    {
        var options = new MachineOptions(common, isDiskNeeded: true);
        var name = new Argument<string?>("NAME")
        {
            Description = "only those whose name begins so",
            Arity = ArgumentArity.ZeroOrOne
        };
        var all = new Option<bool>("--all") { Description = "also what does not start with Windows" };
        var command = new Command("list", "Drivers that start with Windows; others by name, or with --all.") { name, all };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            var services = ServiceRequests.List(machine);
            new ServicesView(common.OutputOf(parsed)).Show(machine, services, parsed.GetValue(name), parsed.GetValue(all));
            return 0;
        });
        return command;
    }

    private static Command Change(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var name = new Argument<string>("NAME") { Description = "the driver or service" };
        var start = new Argument<string>("START") { Description = "boot, system, automatic, demand or disabled" };
        start.TakesOneOf("boot", "system", "automatic", "demand", "disabled");
        var command = new Command("change", "Give a driver or service another start type; nothing else of it changes.")
        {
            name,
            start
        };
        writing.AddTo(command);
        command.SetAction(parsed =>
            writing.Run(
                parsed,
                machine => ServiceRequests.Change(machine, parsed.GetValue(name)!, StartOf(parsed.GetValue(start)!))));
        return command;
    }

    private static Command Install(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var folder = new Argument<string>("FOLDER") { Description = "the maker's driver, unpacked, or its INF" };
        var driver = new Option<string?>("--driver")
        {
            Description = "which one, where there are several: its name or its INF's",
            HelpName = "NAME"
        };
        var command = new Command("install", "Bring the driver of a disk controller into a Windows that is not running.")
        {
            folder,
            driver
        };
        writing.AddTo(command);
        command.SetAction(parsed =>
        {
            var place = parsed.GetValue(folder)!;
            var name = parsed.GetValue(driver);
            if (place.EndsWith(".inf", StringComparison.OrdinalIgnoreCase) && File.Exists(place))
            {
                name ??= Path.GetFileName(place);
                place = Path.GetDirectoryName(Path.GetFullPath(place))!;
            }

            var trees = SourceOptions.Of([place]);
            return writing.Run(parsed, machine => DriverRequests.Install(machine, trees, name));
        });
        return command;
    }

    private static ServiceStart StartOf(string word) => word switch
    {
        "boot" => ServiceStart.Boot,
        "system" => ServiceStart.System,
        "automatic" => ServiceStart.Automatic,
        "demand" => ServiceStart.OnDemand,
        _ => ServiceStart.Disabled
    };
}

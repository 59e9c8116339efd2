using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Drills;

namespace Keel.Cli.Commands;

/// <summary>keel drill list | new</summary>
internal static class DrillCommand
{
    public static Command Create(CommonOptions common) =>
        new("drill", "Practice disks with a fault and a service ticket, made up at Brackwater Ferries.") { List(common), New(common) };

    private static Command List(CommonOptions common)
    {
        var answers = new Option<bool>("--answers") { Description = "name the faults too" };
        var command = new Command("list", "The tickets one can practise on.") { answers };
        command.SetAction(parsed =>
        {
            new DrillView(Screen.For(parsed, common)).ShowList(Faults.All, parsed.GetValue(answers));
            return 0;
        });
        return command;
    }

    private static Command New(CommonOptions common)
    {
        var fault = new Argument<string>("FAULT") { Description = "a ticket such as BF-1041, or a fault such as store-missing" };
        var output = new Option<string>("--out") { Description = "the image to make; must not exist", HelpName = "FILE", Required = true };
        var machine = new Option<string>("--machine") { Description = "the machine's name", HelpName = "NAME", DefaultValueFactory = _ => "PURSER-02" };
        var command = new Command("new", "Make a practice disk.") { fault, output, machine };
        command.SetAction(parsed =>
        {
            var chosen = Faults.Find(parsed.GetValue(fault)!);
            var spec = new PracticeSpec { MachineName = parsed.GetValue(machine)! };
            var path = Path.GetFullPath(parsed.GetValue(output)!);
            PracticeDisk.Make(path, spec, chosen);
            new DrillView(Screen.For(parsed, common)).ShowNew(chosen, spec, path);
            return 0;
        });
        return command;
    }
}

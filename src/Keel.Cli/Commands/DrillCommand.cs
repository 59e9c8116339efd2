using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Errors;

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
        var firmware = CommonOptions.Firmware("for which firmware it is laid out; BIOS where the fault applies to both");
        var command = new Command("new", "Make a practice disk.") { fault, output, machine, firmware };
        command.SetAction(parsed =>
        {
            var chosen = Faults.Find(parsed.GetValue(fault)!);
            var kind = CommonOptions.FirmwareKindOf(parsed.GetValue(firmware)) ?? chosen.Only ?? FirmwareKind.Bios;
            if (!chosen.AppliesTo(kind))
                throw new WrongUsageException($"The fault {chosen.Id} has no {SurveyView.FirmwareName(kind)} drill.", $"It is one of {SurveyView.FirmwareName(chosen.Only!.Value)} machines.", "Leave --firmware out.");
            var spec = new PracticeSpec { MachineName = parsed.GetValue(machine)!, Firmware = kind };
            var path = Path.GetFullPath(parsed.GetValue(output)!);
            PracticeDisk.Make(path, spec, chosen);
            new DrillView(Screen.For(parsed, common)).ShowNew(chosen, spec, path);
            return 0;
        });
        return command;
    }
}

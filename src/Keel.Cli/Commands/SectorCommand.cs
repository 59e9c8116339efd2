using System.CommandLine;
using Keel.Cli.Views;
using Keel.Core.BootCode;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;

namespace Keel.Cli.Commands;

/// <summary>keel sector show | rewrite | restore</summary>
internal static class SectorCommand
{
    public static Command Create(CommonOptions common) =>
        new("sector", "The boot sector of a volume: parameters, code, backup copy.")
        {
            Show(common),
            Rewrite(common),
            Restore(common)
        };

    private static Option<int?> Volume() => CommonOptions.Volume("the volume; the system volume where none is named");

    private static Command Show(CommonOptions common)
    {
        var options = new MachineOptions(common);
        var volume = Volume();
        var command = new Command("show", "The fields, beside the backup copy and what table and file system say.") { volume };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            new SectorView(
                common.OutputOf(parsed)).Show(
                        machine,
                        BootCodeRequests.VolumeOrSystem(machine, parsed.GetValue(volume)),
                        isChosen: parsed.GetValue(volume) is not null);
            return 0;
        });
        return command;
    }

    private static Command Rewrite(CommonOptions common)
    {
        var writing = new WritingOptions(common);
        var volume = Volume();
        var kind = new Option<string>("--for")
        {
            Description = "bootmgr for NT 6 and later, nt5 for the older loader",
            DefaultValueFactory = _ => "bootmgr"
        };
        kind.TakesOneOf("bootmgr", "nt5");
        var from = new Option<string?>("--from")
        {
            Description = "take the code from this healthy disk or image",
            HelpName = "OTHER-DISK"
        };
        var foreign = CommonOptions.ReplaceForeign();
        var command = new Command("rewrite", "Write new boot code; the file system's parameters stay, its place is put right.")
        {
            volume,
            kind,
            from,
            foreign
        };
        writing.AddTo(command);
        command.SetAction(parsed => writing.Run(parsed, machine =>
        {
            using var other = parsed.GetValue(from) is { } path ? MachineDisk.Open(path) : null;
            var loader = parsed.GetValue(kind) == "nt5" ? LoaderKind.Nt5Loader : LoaderKind.BootManager;
            return BootCodeRequests.RewriteSector(
                machine,
                parsed.GetValue(volume),
                loader,
                other,
                RepairTerms.Usual with { ReplaceForeign = parsed.GetValue(foreign) });
        }));
        return command;
    }

    private static Command Restore(CommonOptions common)
    {
        var writing = new WritingOptions(common);
        var volume = Volume();
        var command = new Command(
            "restore",
            "Bring the boot sector back from its backup copy, or from the file system's own structures.") { volume };
        writing.AddTo(command);
        command.SetAction(parsed =>
            writing.Run(
                parsed,
                machine => BootCodeRequests.RestoreSector(machine, parsed.GetValue(volume), RepairTerms.Usual)));
        return command;
    }
}

using System.CommandLine;
using System.Globalization;
using Keel.Cli.Views;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;

namespace Keel.Cli.Commands;

/// <summary>keel mbr show | rewrite | activate</summary>
internal static class MbrCommand
{
    public static Command Create(CommonOptions common) =>
        new("mbr", "The master boot record: code, disk signature, table, active mark.")
        {
            Show(common),
            Rewrite(common),
            Activate(common)
        };

    private static Command Show(CommonOptions common)
    {
        var options = new MachineOptions(common);
        var command = new Command("show", "What stands in the master boot record, and what is wrong with it.");
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            new MbrView(common.OutputOf(parsed)).Show(machine);
            return 0;
        });
        return command;
    }

    private static Command Rewrite(CommonOptions common)
    {
        var writing = new WritingOptions(common);
        var from = new Option<string?>("--from")
        {
            Description = "take the code from this healthy disk or image",
            HelpName = "OTHER-DISK"
        };
        var foreign = CommonOptions.ReplaceForeign();
        var signature = new Option<string?>("--signature")
        {
            Description = "write this disk signature, and leave the code as it is",
            HelpName = "HEX"
        };
        var command = new Command("rewrite", "Write new code; disk signature and table stay.") { from, foreign, signature };
        writing.AddTo(command);
        command.SetAction(parsed => writing.Run(parsed, machine =>
        {
            if (parsed.GetValue(signature) is { } typed) return BootCodeRequests.Sign(machine, SignatureOf(typed));
            using var other = parsed.GetValue(from) is { } path ? MachineDisk.Open(path) : null;
            return BootCodeRequests.RewriteMbr(
                machine,
                other,
                RepairTerms.Usual with { ReplaceForeign = parsed.GetValue(foreign) });
        }));
        return command;
    }

    private static uint SignatureOf(string typed)
    {
        const int digits = 8;
        var hex = typed.StartsWith("0x", StringComparison.OrdinalIgnoreCase) ? typed[2..] : typed;
        return hex.Length == digits
            && uint.TryParse(hex, NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out var value)
            ? value
            : throw new WrongUsageException(
                $"\"{typed}\" is no disk signature.",
                "It has eight hexadecimal digits, as in b4ac0042.",
                "'keel mbr show DISK' shows the present one.");
    }

    private static Command Activate(CommonOptions common)
    {
        var writing = new WritingOptions(common);
        var volume = new Option<int>("--volume")
        {
            Description = "the volume to be started from",
            HelpName = "N",
            Required = true
        }.CompletesVolumes();
        var command = new Command("activate", "Move the active mark to a volume.") { volume };
        writing.AddTo(command);
        command.SetAction(parsed =>
            writing.Run(parsed, machine => BootCodeRequests.Activate(machine, parsed.GetValue(volume))));
        return command;
    }
}

using System.CommandLine;
using Keel.Core.Chain;
using Keel.Core.Firmware;

namespace Keel.Cli.Commands;

/// <summary>The machine that a command works on: its disks, and what is known of its firmware.</summary>
internal sealed class MachineOptions
{
    private readonly Argument<string> disk = CommonOptions.Disk();
    private readonly Option<string[]> with = CommonOptions.With();
    private readonly Option<string?> variables = CommonOptions.Variables();
    private readonly Option<string?> firmware = CommonOptions.Firmware();

    private readonly Option<int?> sector = CommonOptions.Sector();

    public void AddTo(Command command)
    {
        command.Arguments.Insert(0, disk);
        command.Options.Add(with);
        command.Options.Add(variables);
        command.Options.Add(firmware);
        command.Options.Add(sector);
    }

    public string DiskOf(ParseResult parsed) => parsed.GetValue(disk)!;

    public Machine Open(ParseResult parsed)
    {
        string[] paths = [parsed.GetValue(disk)!, .. parsed.GetValue(with)!];
        return Machine.Open(
            paths,
            VariablesFor(parsed.GetValue(variables), paths[0]),
            CommonOptions.FirmwareKindOf(parsed.GetValue(firmware)),
            parsed.GetValue(sector));
    }

    /// <summary>The folder named; else those of this computer, where the disk is a real one of it.</summary>
    internal static FirmwareVariables? VariablesFor(string? folder, string diskPath)
    {
        if (folder is not null) return FirmwareVariables.Open(folder);
        return FirmwareVariables.AreHere && Core.Blocks.DiskPath.IsDiskOfThisComputer(diskPath)
            ? FirmwareVariables.Open(FirmwareVariables.UsualFolder)
            : null;
    }
}

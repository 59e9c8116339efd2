using System.CommandLine;
using Keel.Core.Machines;

namespace Keel.Cli.Commands;

/// <summary>The machine that a command works on: its disks, and what is known of its firmware.</summary>
/// <param name="isDiskNeeded">Whether other words follow the disk, so that it can't be left out.</param>
internal sealed class MachineOptions(CommonOptions common, bool isDiskNeeded = false)
{
    private readonly Argument<string?> disk = CommonOptions.MayBeLeftOut(isDiskNeeded);
    private readonly Option<string[]> with = CommonOptions.With();
    private readonly Option<string?> variables = CommonOptions.Variables();
    private readonly Option<string?> firmware = CommonOptions.Firmware();
    private readonly Option<int?> sector = CommonOptions.Sector();
    private readonly DiskOptions opening = new();
    private readonly UnlockOptions unlocking = new();
    private readonly Option<bool> removable = CommonOptions.Removable();

    public void AddTo(Command command)
    {
        command.Arguments.Insert(0, disk);
        command.Options.Add(with);
        command.Options.Add(variables);
        command.Options.Add(firmware);
        command.Options.Add(sector);
        opening.AddTo(command, withInside: true);
        unlocking.AddTo(command);
        if (!isDiskNeeded) command.Options.Add(removable);
    }

    /// <summary>Whether a disk was named.</summary>
    public bool IsNamed(ParseResult parsed) => parsed.GetValue(disk) is not null;

    public Machine Open(ParseResult parsed) => new MachineOpening(common.OutputOf(parsed))
    {
        Variables = parsed.GetValue(variables),
        Firmware = CommonOptions.FirmwareKindOf(parsed.GetValue(firmware)),
        SectorBytes = parsed.GetValue(sector),
        Terms = opening.Of(parsed, common.OutputOf(parsed)) with
        {
            SpillFolder = common.OpenLogbook(parsed).Path,
            Keys = common.KeysOf(unlocking, parsed)
        },
        WithRemovable = !isDiskNeeded && parsed.GetValue(removable)
    }.Open(parsed.GetValue(disk), parsed.GetValue(with)!);
}

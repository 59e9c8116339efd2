using Keel.Core.Chain;
using Keel.Core.Firmware;

namespace Keel.Cli.Views;

/// <summary>A machine as it is named on the command line.</summary>
internal static class MachineWords
{
    public static string Of(Machine machine) =>
        machine.StartDisk.Path
        + string.Concat(machine.Disks.Skip(1).Select(disk => $" --with {disk.Path}"))
        + Variables(machine);

    /// <summary>The option for the firmware's variables, where it is needed.</summary>
    public static string Variables(Machine machine) => machine.Variables is { } variables && variables.Folder != FirmwareVariables.UsualFolder ? $" --variables {variables.Folder}" : "";
}

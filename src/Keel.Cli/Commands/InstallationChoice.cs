using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Requests;
using Keel.Core.Windows;

namespace Keel.Cli.Commands;

/// <summary>Which Windows a command means: the one on the volume that is named, else the only one.</summary>
internal static class InstallationChoice
{
    /// <exception cref="KeelException">There is none, or there are several; says which.</exception>
    public static WindowsInstallation Of(Machine machine, int? volumeNumber)
    {
        var volume = volumeNumber is null ? null : BootCodeRequests.VolumeOrSystem(machine, volumeNumber);
        var found = machine.Installations.Where(one => volume is null || one.Volume == volume).ToList();
        return found switch
        {
            [var only] => only,
            [] => throw new UnreadableException(
                "There is no Windows here.",
                $"No installation was found{(volume is null ? "" : $" on {volume}")}.{Locks.Told(machine)}",
                Locks.TodoOr(machine, "Run 'keel diagnose' on the disk first.")),
            _ => throw new WrongUsageException(
                "Which Windows?",
                $"There are several: {string.Join("; ", found)}.",
                "Name its volume with --volume.")
        };
    }
}

using Keel.Core.Errors;
using Keel.Core.History;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Machines;

/// <summary>What a Windows of the machine remembers, and which one it is.</summary>
/// <param name="Volume">The volume that it is on.</param>
/// <param name="Folder">Such as <c>\Windows</c>.</param>
/// <param name="History">What it remembers.</param>
public sealed record WindowsMemory(DiskVolume Volume, string Folder, MachineHistory History)
{
    /// <summary>Items that are told of as they stand, beside what is gathered from all.</summary>
    private static readonly string[] OwnWords =
        ["trace.boot-status", "trace.start-repair", "trace.start-log", "trace.servicing-pending"];

    /// <summary>What stands in files of its own: records and logs of starts and repairs, the newest first.</summary>
    public IReadOnlyList<HistoryItem> Traces =>
        [.. History.Items.Where(item => item.Provider is null && OwnWords.Contains(item.Says.Id))];

    /// <summary>
    /// The memory of the Windows that is started; where none is reached, of the first that is found; null where there is none.
    /// </summary>
    /// <param name="machine">The machine.</param>
    /// <param name="scope">How far back.</param>
    /// <param name="asked">The volume that the technician named; null for none.</param>
    public static WindowsMemory? Of(Machine machine, HistoryScope scope, DiskVolume? asked = null)
    {
        try
        {
            return Look(machine, scope, asked);
        }
        catch (KeelException)
        {
            return null;
        }
    }

    private static WindowsMemory? Look(Machine machine, HistoryScope scope, DiskVolume? asked)
    {
        if (asked is null && StartedWindows.Of(machine).Windows is { } started)
            return Read(started.Volume, started.Files, started.Folder, machine.SystemHive, scope);
        var found = machine.Installations.FirstOrDefault(installation => asked is null || installation.Volume == asked);
        return found?.Volume.Files is { } files
            ? Read(found.Volume, files, found.Folder, SystemHive.Read(files, found.SystemHivePath), scope)
            : null;
    }

    private static WindowsMemory Read(DiskVolume volume, IVolume files, string folder, SystemHive? hive, HistoryScope scope)
    {
        var controlSet = hive?.ControlSet is { } name ? hive.Root?.Find(name) : null;
        return new WindowsMemory(volume, folder, MachineHistory.Read(files, folder, controlSet, scope));
    }
}

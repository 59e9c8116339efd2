using Keel.Core.Firmware;
using Keel.Core.Machines;

namespace Keel.Core.Mending;

/// <summary>Everything that a plan writes: it belongs to the plan, and never changes.</summary>
/// <param name="Disks">The machine's disks, also those of which nothing changes: by them a repair of the firmware is
///     known.</param>
/// <param name="Variables">The firmware's variables; null where none change.</param>
public sealed record ChangeSet(IReadOnlyList<DiskChange> Disks, VariableChanges? Variables)
{
    /// <summary>What differs on a machine now.</summary>
    /// <exception cref="Errors.RefusedException">A disk inside another is changed, and the volume that its file is on can't be
    ///     written.</exception>
    public static ChangeSet Of(Machine machine) => new(
        OutermostChanges.Changes(machine),
        machine.Variables is { } variables && variables.Changes() is { Count: > 0 } files
            ? new VariableChanges(variables.Folder, files)
            : null);

    /// <summary>How much is written to disks, in bytes.</summary>
    public long ChangedBytes => Disks.Sum(disk => disk.Changes.ChangedBytes);

    /// <summary>What the way back takes in the logbook, in bytes: what stood there, and what was written.</summary>
    public long RecordBytes => 2 * ChangedBytes;

    /// <summary>Whether anything is changed at all.</summary>
    public bool Any => Variables is not null || Disks.Any(disk => disk.Changes.Any);
}

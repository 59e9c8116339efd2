using Keel.Core.Chain;
using Keel.Core.Firmware;

namespace Keel.Core.Mending;

/// <summary>Everything that a plan writes: it belongs to the plan, and never changes.</summary>
/// <param name="Disks">Those of the machine's disks of which something changes.</param>
/// <param name="Variables">The firmware's variables; null where none change.</param>
public sealed record ChangeSet(IReadOnlyList<DiskChange> Disks, VariableChanges? Variables)
{
    /// <summary>What differs on a machine now.</summary>
    public static ChangeSet Of(Machine machine) => new(
        [.. machine.Disks.Where(disk => disk.Overlay.Changes().Any).Select(disk => new DiskChange(disk.Path, disk.Traits, disk.IdentityNow, disk.Layout.Identity, disk.Overlay.Changes()))],
        machine.Variables is { } variables && variables.Changes() is { Count: > 0 } files ? new VariableChanges(variables.Folder, files) : null);

    public bool Any => Variables is not null || Disks.Count > 0;
}

using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Layout;
using Keel.Core.Machines;

namespace Keel.Core.Logbook;

/// <summary>A disk as it stands now, to be compared with records.</summary>
/// <param name="Path">Where it is now.</param>
/// <param name="Blocks">Its bytes, for looking.</param>
/// <param name="Identity">The disk's identity.</param>
/// <param name="Traits">What the system says of the disk.</param>
public sealed record DiskSeen(string Path, IReadableBlocks Blocks, DiskIdentity Identity, DiskTraits Traits)
{
    /// <summary>What tells this disk from others, as it is now.</summary>
    public static DiskSeen Of(MachineDisk disk) => new(disk.Path, disk.Overlay.Disk, disk.IdentityNow, disk.Traits);
}

using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Layout;

namespace Keel.Core.Mending;

/// <summary>What a plan changes on one disk, and by what that disk is known.</summary>
/// <param name="Path">The path that it was opened by, links resolved.</param>
/// <param name="Traits">What the system says of the disk.</param>
/// <param name="IdentityBefore">Its signature or GUID as it is.</param>
/// <param name="IdentityAfter">The same once the plan is carried out.</param>
/// <param name="Changes">What becomes other on it.</param>
public sealed record DiskChange(
    string Path,
    DiskTraits Traits,
    DiskIdentity IdentityBefore,
    DiskIdentity IdentityAfter,
    DiskChanges Changes);

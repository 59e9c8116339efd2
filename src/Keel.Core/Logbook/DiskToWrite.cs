using Keel.Core.Blocks;
using Keel.Core.Layout;

namespace Keel.Core.Logbook;

/// <summary>A disk with the changes that a commit is to write.</summary>
public sealed record DiskToWrite(string Path, Overlay Overlay, DiskIdentity IdentityAfter)
{
    public DiskIdentity IdentityBefore => DiskLayout.Read(Overlay.Disk).Identity;
}

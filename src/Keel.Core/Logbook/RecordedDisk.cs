using Keel.Core.Disks;

namespace Keel.Core.Logbook;

/// <summary>A disk that a repair wrote to, with all by which it can be known again.</summary>
/// <param name="Path">Where it was then.</param>
/// <param name="LengthBytes">The length of the disk, in bytes.</param>
/// <param name="IdentityBefore">Signature or GUID before the repair.</param>
/// <param name="IdentityAfter">The same after it.</param>
/// <param name="Traits">What the system told of it.</param>
/// <param name="Ranges">The ranges that were written.</param>
public sealed record RecordedDisk(
    string Path,
    long LengthBytes,
    string IdentityBefore,
    string IdentityAfter,
    DiskTraits? Traits,
    IReadOnlyList<RecordedRange> Ranges)
{
    /// <summary>How sure it is that a disk is this one, apart from what stands on it.</summary>
    public DiskMatch SamenessTo(DiskSeen disk)
    {
        if (disk.Blocks.LengthBytes != LengthBytes) return DiskMatch.Other;
        return (Traits ?? DiskTraits.None).IsSameAs(disk.Traits) switch
        {
            true => DiskMatch.Sure,
            false => DiskMatch.Other,
            null => DiskMatch.Possible
        };
    }

    /// <summary>Whether the signature or GUID is one that it had.</summary>
    public bool HasIdentityOf(DiskSeen disk) =>
        disk.Identity.ToString() is var now && (now == IdentityBefore || now == IdentityAfter);
}

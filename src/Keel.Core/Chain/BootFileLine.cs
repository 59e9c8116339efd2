using Keel.Core.Facts;
using Keel.Core.Volumes;

namespace Keel.Core.Chain;

/// <summary>One file of the boot chain, as it stands.</summary>
/// <param name="Volume">The volume that it is on.</param>
/// <param name="Path">Its path on the volume, with backslashes.</param>
/// <param name="Role">What it is for, in a word or two.</param>
/// <param name="File">What is there; null where nothing is.</param>
/// <param name="Version">The version that it says it has; null where it says none.</param>
/// <param name="Problems">What is wrong with it.</param>
/// <param name="IsNeeded">Whether the machine can't start without it.</param>
public sealed record BootFileLine(
    DiskVolume Volume,
    string Path,
    string Role,
    VolumeFile? File,
    Version? Version,
    IReadOnlyList<Remark> Problems,
    bool IsNeeded);

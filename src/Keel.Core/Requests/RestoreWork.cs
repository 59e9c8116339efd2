using Keel.Core.Mending;
using Keel.Core.Volumes.Snapshots;

namespace Keel.Core.Requests;

/// <summary>What differs between today and a restore point, and is brought back.</summary>
/// <param name="Snapshot">The restore point.</param>
/// <param name="Hives">Hives that differ, whole, by their paths.</param>
/// <param name="Files">Files that differ, by their paths.</param>
internal sealed record RestoreWork(
    Snapshot Snapshot,
    IReadOnlyDictionary<string, byte[]> Hives,
    IReadOnlyDictionary<string, byte[]> Files)
{
    /// <summary>What that changes for those who use the machine.</summary>
    public IReadOnlyList<StepDetail> Lines { get; init; } = [];
}

namespace Keel.Core.Volumes.Snapshots;

/// <summary>An older state of a volume that Windows keeps.</summary>
/// <param name="Number">1 for the youngest; a number means the same until Windows makes or drops one.</param>
/// <param name="Made">When it was made.</param>
/// <param name="Cause">What it was made for, as far as its marks tell.</param>
/// <param name="Id">The identifier of the copy, which Windows lists it by.</param>
/// <param name="VolumeBytes">The size of the volume then, in bytes.</param>
public sealed record Snapshot(int Number, DateTimeOffset Made, SnapshotCause Cause, Guid Id, long VolumeBytes);

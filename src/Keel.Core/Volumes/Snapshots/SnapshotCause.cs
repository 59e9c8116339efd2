namespace Keel.Core.Volumes.Snapshots;

/// <summary>What a snapshot was made for, by its context (VSS_SNAPSHOT_CONTEXT of the Windows headers).</summary>
public enum SnapshotCause
{
    /// <summary>Its marks fit no usual context.</summary>
    Unknown,

    /// <summary>A restore point of the system.</summary>
    RestorePoint,

    /// <summary>Earlier versions of shared folders.</summary>
    EarlierVersions,

    /// <summary>A backup program keeps it to go back to.</summary>
    Rollback,

    /// <summary>A backup that ran; it should have been dropped after it.</summary>
    Backup
}

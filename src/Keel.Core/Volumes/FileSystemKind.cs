namespace Keel.Core.Volumes;

/// <summary>What stands on a partition, by its first sector.</summary>
public enum FileSystemKind
{
    /// <summary>Nothing that is known here.</summary>
    Unknown,
    Ntfs,
    Fat12,
    Fat16,
    Fat32,
    ExFat,
    ReFs,

    /// <summary>Encrypted by BitLocker.</summary>
    BitLocker
}

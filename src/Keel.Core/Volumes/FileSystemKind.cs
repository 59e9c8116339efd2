namespace Keel.Core.Volumes;

/// <summary>What stands on a partition, by its first sector.</summary>
public enum FileSystemKind
{
    /// <summary>Nothing that is known here.</summary>
    Unknown,

    Ntfs,

    /// <summary>FAT with 12 bits a cluster.</summary>
    Fat12,

    /// <summary>FAT with 16 bits a cluster.</summary>
    Fat16,

    /// <summary>FAT with 32 bits a cluster.</summary>
    Fat32,

    /// <summary>exFAT; recognised only.</summary>
    ExFat,

    /// <summary>ReFS; recognised only.</summary>
    ReFs,

    /// <summary>Encrypted by BitLocker.</summary>
    BitLocker
}

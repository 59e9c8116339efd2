namespace Keel.Core.Search;

/// <summary>What speaks for a volume that was found by what stands on the disk.</summary>
[Flags]
public enum VolumeEvidence
{
    /// <summary>Nothing.</summary>
    None = 0,

    /// <summary>Its first sector says what it is.</summary>
    BootSector = 1,

    /// <summary>That sector, or its copy, names the very place where the volume begins.</summary>
    OwnPlace = 2,

    /// <summary>The copy of that sector stands where it belongs.</summary>
    BackupSector = 4,

    /// <summary>What leads to its files stands where it belongs: $MFT, the first FAT.</summary>
    FileTable = 8,

    /// <summary>The copy of that stands where it belongs: the mirror of $MFT, the second FAT.</summary>
    FileTableCopy = 16,

    /// <summary>The mark of a file system that keel does not read.</summary>
    Mark = 32
}

namespace Keel.Core.Machines;

/// <summary>How an EFI system partition stands.</summary>
internal enum SystemVolumeCondition
{
    /// <summary>There, of the right type, with a file system that leads to its files.</summary>
    Sound,

    /// <summary>The disk failed where it was looked at.</summary>
    NotRead,

    /// <summary>There is none.</summary>
    Missing,

    /// <summary>It is there, and not marked as one.</summary>
    WrongType,

    /// <summary>Its boot sector describes another file system than the one that stands there.</summary>
    WrongFields,

    /// <summary>It has no file system that firmware reads.</summary>
    NoFileSystem,

    /// <summary>It is empty.</summary>
    Formatted,

    /// <summary>Its file system is damaged.</summary>
    Damaged,

    /// <summary>The two tables of its file system differ.</summary>
    CopiesDiffer
}

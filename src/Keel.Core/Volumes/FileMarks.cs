namespace Keel.Core.Volumes;

/// <summary>File attributes as NTFS and FAT keep them ([MS-FSCC] 2.6).</summary>
[Flags]
public enum FileMarks
{
    /// <summary>No mark.</summary>
    None = 0,

    /// <summary>Not to be written.</summary>
    ReadOnly = 0x1,

    /// <summary>Not shown in lists.</summary>
    Hidden = 0x2,

    /// <summary>Belongs to the system.</summary>
    System = 0x4,

    Folder = 0x10,

    /// <summary>Changed since the last backup.</summary>
    Archive = 0x20,

    /// <summary>Has holes.</summary>
    Sparse = 0x200,

    /// <summary>Stands for something else.</summary>
    Reparse = 0x400,

    /// <summary>Compressed by the file system.</summary>
    Compressed = 0x800,

    /// <summary>Encrypted by the file system.</summary>
    Encrypted = 0x4000,

    /// <summary>The four that a technician sets and clears.</summary>
    Changeable = ReadOnly | Hidden | System | Archive
}

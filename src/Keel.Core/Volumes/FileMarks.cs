namespace Keel.Core.Volumes;

/// <summary>File attributes as NTFS and FAT keep them ([MS-FSCC] 2.6).</summary>
[Flags]
public enum FileMarks
{
    None = 0,
    ReadOnly = 0x1,
    Hidden = 0x2,
    System = 0x4,
    Folder = 0x10,
    Archive = 0x20,
    Sparse = 0x200,
    Reparse = 0x400,
    Compressed = 0x800,
    Encrypted = 0x4000,

    /// <summary>The four that a technician sets and clears.</summary>
    Changeable = ReadOnly | Hidden | System | Archive
}

namespace Keel.Core.Disks;

/// <summary>The kinds of file that can stand behind a path, by the type bits of their mode.</summary>
internal enum UnixFileKind
{
    Missing = 0,
    Pipe = 0x1000,
    CharacterDevice = 0x2000,
    Folder = 0x4000,
    BlockDevice = 0x6000,
    Regular = 0x8000,
    Socket = 0xC000
}

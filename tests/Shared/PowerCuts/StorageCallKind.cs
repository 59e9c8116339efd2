namespace Keel.Tests;

/// <summary>The calls that reach storage.</summary>
internal enum StorageCallKind
{
    CreateFolder,
    CreateFile,
    Append,
    FlushFile,
    FlushFolder,
    Rename,
    DeleteFolder,
    WriteDisk,
    FlushDisk
}

namespace Keel.Core.Disks;

/// <summary>What a file is, whatever it is called: the number of its file system's device, and its own number there.</summary>
/// <param name="Major">Major number of the device that holds the file.</param>
/// <param name="Minor">Minor number of that device.</param>
/// <param name="Inode">The file's number on it.</param>
public readonly record struct FileId(uint Major, uint Minor, ulong Inode)
{
    /// <summary>"8:1:4711": as /proc/locks writes it, but decimal.</summary>
    public override string ToString() => $"{Major}:{Minor}:{Inode}";
}

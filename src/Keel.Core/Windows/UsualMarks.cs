using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>The attributes that boot files usually have.</summary>
public static class UsualMarks
{
    private const FileMarks LockedAway = FileMarks.ReadOnly | FileMarks.Hidden | FileMarks.System;

    private static readonly (string Path, FileMarks Marks)[] Known =
    [
        (@"\bootmgr", LockedAway | FileMarks.Archive),
        (@"\bootnxt", FileMarks.Hidden | FileMarks.System | FileMarks.Archive),
        (@"\boot", FileMarks.Hidden | FileMarks.System),
        (@"\ntldr", LockedAway), (@"\ntdetect.com", LockedAway), (@"\boot.ini", FileMarks.Hidden | FileMarks.System)
    ];

    /// <summary>Files that are not known by their path have the archive attribute, and folders none.</summary>
    public static FileMarks Of(string path, bool isFolder = false)
    {
        var known = Array.Find(Known, entry => entry.Path.Equals(path, StringComparison.OrdinalIgnoreCase));
        return known.Path is not null ? known.Marks : isFolder ? FileMarks.None : FileMarks.Archive;
    }
}

namespace Keel.Core.Machines;

/// <summary>Whether what a start entry names is on the disks given.</summary>
public enum StartTarget
{
    /// <summary>It leads to a file that is there.</summary>
    Here,

    /// <summary>The partition is here, and the file is not on it.</summary>
    FileGone,

    /// <summary>The partition is on none of the disks given.</summary>
    Gone,

    /// <summary>It names no partition (a network card, a firmware program), or one of a disk that was not given.</summary>
    NotJudged
}

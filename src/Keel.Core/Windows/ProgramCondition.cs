namespace Keel.Core.Windows;

/// <summary>What was met where a start program should be.</summary>
public enum ProgramCondition
{
    Missing,

    /// <summary>A folder stands in its place.</summary>
    Folder,
    Empty,

    /// <summary>Its length is right, and it holds zeros only.</summary>
    ZeroFilled,
    NotProgram,
    CutShort,

    /// <summary>A program for another processor.</summary>
    OtherProcessor,

    /// <summary>Its checksum or its signature does not fit its content.</summary>
    Altered,

    /// <summary>The disk does not give it.</summary>
    Unreadable,
    Sound
}

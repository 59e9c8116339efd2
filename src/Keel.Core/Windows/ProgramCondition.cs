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
    Sound
}

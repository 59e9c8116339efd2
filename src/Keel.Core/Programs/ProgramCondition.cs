namespace Keel.Core.Programs;

/// <summary>What was met where a start program should be.</summary>
public enum ProgramCondition
{
    /// <summary>There is no such file.</summary>
    Missing,

    /// <summary>A folder stands in its place.</summary>
    Folder,

    /// <summary>It has no bytes.</summary>
    Empty,

    /// <summary>Its length is right, and it holds zeros only.</summary>
    ZeroFilled,

    /// <summary>It has no program header.</summary>
    NotProgram,

    /// <summary>It ends before its sections do.</summary>
    CutShort,

    /// <summary>A program for another processor.</summary>
    OtherProcessor,

    /// <summary>Its checksum or its signature does not fit its content.</summary>
    Altered,

    /// <summary>The disk does not give it.</summary>
    Unreadable,

    /// <summary>
    /// Its contents are kept in another form, as Windows packs system files on small disks: nothing can be said of them here.
    /// </summary>
    NotCheckable,

    /// <summary>Nothing is wrong with it.</summary>
    Sound
}

namespace Keel.Core.Programs;

/// <summary>Whether a file is what its maker signed.</summary>
public enum FileVerdict
{
    /// <summary>A signature of its own, or a catalog, says that it is as it was signed.</summary>
    Signed,

    /// <summary>It is another than was signed, or plainly damaged.</summary>
    Altered,

    /// <summary>Nothing says what it should be: it carries no signature, and no catalog lists it.</summary>
    Unknown,

    /// <summary>The disk does not give it.</summary>
    Unreadable
}

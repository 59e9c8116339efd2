namespace Keel.Core.Requests;

/// <summary>Which files of an installation are checked.</summary>
public enum FileScope
{
    /// <summary>The programs, libraries and drivers that a start goes through.</summary>
    Start,

    /// <summary>The folders of the system, with their drivers and boot files.</summary>
    System,

    /// <summary>The component store as well.</summary>
    All
}

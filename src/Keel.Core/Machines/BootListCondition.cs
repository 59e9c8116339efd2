namespace Keel.Core.Machines;

/// <summary>How the list of systems of an NT 5 machine stands.</summary>
public enum BootListCondition
{
    /// <summary>It can be read, and names a system.</summary>
    Loaded,

    /// <summary>The system volume can't be read, or is not known.</summary>
    NoVolume,

    /// <summary>There is no such file.</summary>
    Missing,

    /// <summary>It names no system.</summary>
    Empty,

    /// <summary>It is no such list.</summary>
    Unreadable
}

namespace Keel.Core.Chain;

/// <summary>In what state the store was met.</summary>
public enum StoreCondition
{
    /// <summary>There is no system volume whose files can be read.</summary>
    NoVolume,
    Missing,

    /// <summary>A folder stands in its place.</summary>
    Folder,
    Truncated,
    Unreadable,
    BadChecksum,

    /// <summary>The last write was cut off; what is shown has the log applied.</summary>
    Torn,
    Loaded
}

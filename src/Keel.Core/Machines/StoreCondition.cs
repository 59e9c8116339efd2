namespace Keel.Core.Machines;

/// <summary>In what state the store was met.</summary>
public enum StoreCondition
{
    /// <summary>There is no system volume whose files can be read.</summary>
    NoVolume,

    /// <summary>There is no such file.</summary>
    Missing,

    /// <summary>A folder stands in its place.</summary>
    Folder,

    /// <summary>It ends before its own data does.</summary>
    Truncated,

    /// <summary>It is no hive.</summary>
    Unreadable,

    /// <summary>Its base block's checksum does not fit.</summary>
    BadChecksum,

    /// <summary>The last write was cut off; what is shown has the log applied.</summary>
    Torn,

    /// <summary>It was read.</summary>
    Loaded
}

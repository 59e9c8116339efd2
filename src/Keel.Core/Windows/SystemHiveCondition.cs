namespace Keel.Core.Windows;

/// <summary>In what state the SYSTEM hive was met.</summary>
public enum SystemHiveCondition
{
    /// <summary>There is no such file.</summary>
    Missing,

    /// <summary>It was found, and can't be read.</summary>
    Damaged,

    /// <summary>Its last write was cut off, and its logs have the rest.</summary>
    Torn,

    /// <summary>It loads, and the control set that it names is not in it.</summary>
    NoControlSet,

    /// <summary>It was read.</summary>
    Sound
}

namespace Keel.Core.Rescue;

/// <summary>From where a disk's signature or GUID is known.</summary>
public enum IdentityOrigin
{
    /// <summary>It stands on the disk.</summary>
    Disk,

    /// <summary>A store or a SYSTEM hive on the disk names the disk by it.</summary>
    Remembered,

    /// <summary>Nothing tells it; it is a new one.</summary>
    New
}

namespace Keel.Core.Disks;

/// <summary>What a disk's word of its own health comes to.</summary>
public enum HealthCondition
{
    /// <summary>It says nothing: a virtual disk, or one behind an adapter that does not pass the question on.</summary>
    Unknown,

    /// <summary>Nothing speaks against it.</summary>
    Healthy,

    /// <summary>Some sectors or transfers failed.</summary>
    Doubtful,

    /// <summary>It says itself that it is failing, or a value of it is past its limit.</summary>
    Failing
}

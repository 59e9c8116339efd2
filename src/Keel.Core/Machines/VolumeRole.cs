namespace Keel.Core.Machines;

/// <summary>What a volume is for; one can have several roles.</summary>
public enum VolumeRole
{
    /// <summary>Holds boot manager and store.</summary>
    System,

    /// <summary>Holds a Windows installation.</summary>
    Windows,

    /// <summary>Holds the recovery environment.</summary>
    Recovery,

    /// <summary>Holds somebody's data.</summary>
    Data,

    /// <summary>Encrypted, so that what it is for is behind the lock.</summary>
    Locked,

    /// <summary>Reserved for Windows itself.</summary>
    Reserved,

    /// <summary>Another system's, or not known.</summary>
    Other
}

namespace Keel.Core.Chain;

/// <summary>What a volume is for; one can have several roles.</summary>
public enum VolumeRole
{
    /// <summary>Holds boot manager and store.</summary>
    System,

    /// <summary>Holds a Windows installation.</summary>
    Windows,
    Recovery,
    Data,
    Reserved,
    Other
}

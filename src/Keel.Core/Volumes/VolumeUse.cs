namespace Keel.Core.Volumes;

/// <summary>What a volume is opened for.</summary>
public enum VolumeUse
{
    /// <summary>Nothing is written.</summary>
    Looking,

    /// <summary>Files are changed; not on a volume that a hibernated Windows has open, or whose journal has work in it.</summary>
    Writing,

    /// <summary>The session of a hibernated Windows is given up.</summary>
    GivingUpSession
}

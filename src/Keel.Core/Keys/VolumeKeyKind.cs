namespace Keel.Core.Keys;

/// <summary>What somebody holds that opens a volume.</summary>
public enum VolumeKeyKind
{
    /// <summary>The 48 digits.</summary>
    Recovery,

    Password,

    /// <summary>A startup key, from a file on a stick.</summary>
    Startup
}

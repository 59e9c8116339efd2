namespace Keel.Core.BootCode;

/// <summary>Whose boot code stands in a sector.</summary>
public enum CodeOwner
{
    /// <summary>No code: zeros, or a file system maker's "not bootable" notice.</summary>
    Blank,

    /// <summary>keel's own code.</summary>
    Keel,

    /// <summary>Windows' own, told by the shape of its code and what it looks for.</summary>
    Windows,

    /// <summary>Another boot loader.</summary>
    Foreign,

    /// <summary>Something that keel does not know.</summary>
    Unknown
}

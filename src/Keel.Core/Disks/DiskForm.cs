namespace Keel.Core.Disks;

/// <summary>What the bytes of a disk lie in.</summary>
public enum DiskForm
{
    /// <summary>A block device.</summary>
    Device,

    /// <summary>A file that holds the bytes as they are.</summary>
    Raw,

    /// <summary>A virtual hard disk (Virtual Hard Disk Image Format Specification 1.0).</summary>
    Vhd,

    /// <summary>A virtual hard disk of the second version (MS-VHDX).</summary>
    Vhdx,

    /// <summary>A file in another format, which a helper serves.</summary>
    Served,

    /// <summary>A disk of another computer, or of another program, over the NBD protocol.</summary>
    Remote
}

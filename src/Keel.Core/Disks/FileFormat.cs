namespace Keel.Core.Disks;

/// <summary>The formats of disk images, told by the marks of their specifications.</summary>
public enum FileFormat
{
    /// <summary>The bytes of the disk as they are.</summary>
    Raw,

    /// <summary>Virtual Hard Disk Image Format 1.0; keel reads and writes it.</summary>
    Vhd,

    /// <summary>MS-VHDX; keel reads and writes it.</summary>
    Vhdx,

    /// <summary>A format that a helper serves.</summary>
    Qcow2,

    /// <summary>A format that a helper serves.</summary>
    Vmdk,

    /// <summary>A format that a helper serves.</summary>
    Vdi
}

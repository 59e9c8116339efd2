namespace Keel.Core.Disks;

/// <summary>How a disk is connected.</summary>
public enum DiskBus
{
    /// <summary>Another way, or one that can't be told.</summary>
    Other,

    /// <summary>SATA or IDE.</summary>
    Ata,

    /// <summary>SCSI or SAS, also behind a RAID controller.</summary>
    Scsi,

    /// <summary>NVM Express.</summary>
    Nvme,

    Usb,

    /// <summary>A memory card, or storage soldered to the board.</summary>
    Mmc,

    /// <summary>A disk of a virtual machine.</summary>
    Virtual
}

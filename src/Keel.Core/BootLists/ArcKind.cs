namespace Keel.Core.BootLists;

/// <summary>How an ARC path names the disk.</summary>
public enum ArcKind
{
    /// <summary>By the number that the BIOS gives it: <c>multi(0)disk(0)rdisk(N)</c>.</summary>
    Multi,

    /// <summary>By adapter, target and unit of a SCSI bus: <c>scsi(A)disk(B)rdisk(C)</c>.</summary>
    Scsi,

    /// <summary>By its signature: <c>signature(XXXXXXXX)disk(0)rdisk(0)</c>.</summary>
    Signature
}

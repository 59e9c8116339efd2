namespace Keel.Core.Logbook;

/// <summary>How sure it is that a disk is the one of a record.</summary>
public enum DiskMatch
{
    /// <summary>It is another one: another size, or another serial number.</summary>
    Other,

    /// <summary>Nothing tells; only what stands on it can.</summary>
    Possible,

    /// <summary>The same device by its serial number, or the same image file.</summary>
    Sure
}

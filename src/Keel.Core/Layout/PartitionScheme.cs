namespace Keel.Core.Layout;

/// <summary>How a disk is divided.</summary>
public enum PartitionScheme
{
    /// <summary>No partition table was found.</summary>
    None,

    /// <summary>A master boot record's table.</summary>
    Mbr,

    /// <summary>A GUID partition table.</summary>
    Gpt
}

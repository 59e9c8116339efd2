namespace Keel.Core.Rescue;

/// <summary>From where a partition of a rescued table is known.</summary>
public enum PartitionOrigin
{
    /// <summary>The table lists it.</summary>
    Listed,

    /// <summary>What is left of a table names it.</summary>
    Remains,

    /// <summary>Its file system was found.</summary>
    Found
}

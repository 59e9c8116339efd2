namespace Keel.Core.Layout;

/// <summary>What can be wrong with a partition table.</summary>
public enum LayoutProblemKind
{
    /// <summary>There is no table at all.</summary>
    NoTable,

    /// <summary>Sector 0 does not end with 55 AA.</summary>
    MarkMissing,

    /// <summary>An entry's active mark is neither 00 nor 80.</summary>
    BadActiveMark,

    /// <summary>More than one partition is active.</summary>
    TwoActive,

    /// <summary>No partition is active.</summary>
    NoneActive,

    /// <summary>Two partitions share sectors.</summary>
    Overlap,

    /// <summary>A partition ends behind the end of the disk.</summary>
    PastEnd,

    /// <summary>The chain of logical partitions leads nowhere, or in a circle.</summary>
    LogicalChainDamaged,

    /// <summary>The disk reports an error where the table stands: what is there is not known.</summary>
    Unreadable,

    /// <summary>The same, in the chain of logical partitions.</summary>
    LogicalUnreadable,

    /// <summary>The first header or its entries can't be read from the disk.</summary>
    GptPrimaryUnreadable,

    /// <summary>The header at the end or its entries can't be read from the disk.</summary>
    GptBackupUnreadable,

    /// <summary>The first header or its entries are damaged.</summary>
    GptPrimaryDamaged,

    /// <summary>The header at the end or its entries are damaged.</summary>
    GptBackupDamaged,

    /// <summary>The second header does not stand at the end of the disk.</summary>
    GptBackupMisplaced,

    /// <summary>Both copies are whole and say different things.</summary>
    GptCopiesDiffer,

    /// <summary>Sector 0 does not protect the table.</summary>
    GptProtectiveMissing,

    /// <summary>A whole GPT stands behind a table of the old kind: one of the two is a left-over.</summary>
    GptBehindTable,

    /// <summary>Neither copy can be used.</summary>
    GptBothDamaged
}

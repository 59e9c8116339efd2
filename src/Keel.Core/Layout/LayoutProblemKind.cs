namespace Keel.Core.Layout;

/// <summary>What can be wrong with a partition table.</summary>
public enum LayoutProblemKind
{
    NoTable,
    MarkMissing,
    BadActiveMark,
    TwoActive,
    NoneActive,
    Overlap,
    PastEnd,
    LogicalChainDamaged,

    /// <summary>The disk reports an error where the table stands: what is there is not known.</summary>
    Unreadable,

    /// <summary>The same, in the chain of logical partitions.</summary>
    LogicalUnreadable,
    GptPrimaryUnreadable,
    GptBackupUnreadable,
    GptPrimaryDamaged,
    GptBackupDamaged,
    GptBackupMisplaced,
    GptCopiesDiffer,
    GptProtectiveMissing,
    GptBothDamaged
}

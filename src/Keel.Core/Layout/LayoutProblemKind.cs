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
    GptPrimaryDamaged,
    GptBackupDamaged,
    GptBackupMisplaced,
    GptCopiesDiffer,
    GptProtectiveMissing,
    GptBothDamaged
}

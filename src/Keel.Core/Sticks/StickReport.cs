using Keel.Core.Facts;
using Keel.Core.Layout;

namespace Keel.Core.Sticks;

/// <summary>What a check of a recovery medium found.</summary>
/// <param name="Image">What it is.</param>
/// <param name="IsWhole">Whether it holds what its image holds; null where nothing can tell.</param>
/// <param name="StartsBios">Whether firmware of the BIOS kind finds something to start.</param>
/// <param name="StartsUefi">Whether UEFI firmware does.</param>
/// <param name="Log">The partition for the logbook; null where there is none.</param>
/// <param name="Problems">What is wrong, or could not be judged.</param>
public sealed record StickReport(
    MediumImage Image,
    bool? IsWhole,
    bool StartsBios,
    bool StartsUefi,
    Partition? Log,
    IReadOnlyList<Remark> Problems)
{
    /// <summary>Whether it can be relied on: whole, as far as can be told, and started by both kinds of firmware.</summary>
    public bool IsGood => IsWhole != false && StartsBios && StartsUefi;
}

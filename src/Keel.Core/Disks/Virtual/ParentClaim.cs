namespace Keel.Core.Disks.Virtual;

/// <summary>What a differencing disk says of its parent.</summary>
/// <param name="Names">Paths to it, in the words of Windows, the nearest first.</param>
/// <param name="Id">What the parent calls itself: the id of a VHD, the id of the last write to a VHDX.</param>
internal sealed record ParentClaim(IReadOnlyList<string> Names, Guid Id);

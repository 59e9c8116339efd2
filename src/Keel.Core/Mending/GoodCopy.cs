namespace Keel.Core.Mending;

/// <summary>A copy of a boot file that was judged, and may be written.</summary>
/// <param name="Bytes">Its contents.</param>
/// <param name="Source">Where it comes from, as it is told to people.</param>
/// <param name="IsProven">Whether its checksum, its signature or a catalog says that it is as it was made.</param>
/// <param name="IsTwin">Whether it is the other one of boot manager and fallback file.</param>
internal sealed record GoodCopy(byte[] Bytes, string Source, bool IsProven, bool IsTwin = false)
{
    /// <summary>
    /// Whether it comes from the component store, where deltas and other versions have the same names: only proven ones count.
    /// </summary>
    public bool IsStaged { get; init; }
}

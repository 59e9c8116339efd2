namespace Keel.Core.Blocks;

/// <summary>The changed blocks of an overlay at one moment.</summary>
public sealed class OverlayState
{
    /// <summary>An overlay without changes.</summary>
    public static readonly OverlayState Untouched = new([]);

    internal OverlayState(IReadOnlyList<KeyValuePair<long, byte[]>> blocks) => Blocks = blocks;

    internal IReadOnlyList<KeyValuePair<long, byte[]>> Blocks { get; }
}

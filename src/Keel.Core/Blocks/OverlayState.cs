using System.Collections.Immutable;

namespace Keel.Core.Blocks;

/// <summary>The changed blocks of an overlay at one moment; it never changes.</summary>
public sealed class OverlayState
{
    /// <summary>An overlay without changes.</summary>
    public static readonly OverlayState Untouched = new(ImmutableSortedDictionary<long, OverlayBlock>.Empty);

    internal OverlayState(ImmutableSortedDictionary<long, OverlayBlock> blocks) => Blocks = blocks;

    internal ImmutableSortedDictionary<long, OverlayBlock> Blocks { get; }
}

using Keel.Core.Blocks;

namespace Keel.Core.Search;

/// <summary>A disk to be searched.</summary>
/// <param name="Blocks">Its bytes.</param>
/// <param name="NextData">
/// The first place from the given one on, in bytes, that may hold anything: holes of an image are not read.
/// </param>
/// <param name="Progress">Told now and then.</param>
public sealed record SearchedDisk(IReadableBlocks Blocks, Func<long, long> NextData, Action<SearchProgress> Progress)
{
    /// <summary>A disk of which every byte is read, and nobody waits.</summary>
    public static SearchedDisk Of(IReadableBlocks blocks) => new(blocks, place => place, _ => { });
}

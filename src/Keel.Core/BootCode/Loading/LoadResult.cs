namespace Keel.Core.BootCode.Loading;

/// <summary>What boot code would come to on a volume.</summary>
/// <param name="Outcome">Whether it was loaded.</param>
/// <param name="Why">Where it would stop; empty where it does not.</param>
/// <param name="Runs">In how many pieces the loader lies; 0 where it lies in its file record, or is not reached.</param>
public sealed record LoadResult(LoadOutcome Outcome, string Why, int Runs);

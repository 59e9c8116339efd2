namespace Keel.Core.BootCode.Loading;

/// <summary>Boot code stops here; caught where the simulation was begun.</summary>
internal sealed class LoadStoppedException(LoadOutcome outcome, string why) : Exception(why)
{
    public LoadOutcome Outcome { get; } = outcome;
}

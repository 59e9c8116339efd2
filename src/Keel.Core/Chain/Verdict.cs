namespace Keel.Core.Chain;

/// <summary>How the chain stands as a whole.</summary>
public enum Verdict
{
    Sound,
    Doubtful,
    Broken
}

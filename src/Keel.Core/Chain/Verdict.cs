namespace Keel.Core.Chain;

/// <summary>How the chain stands as a whole.</summary>
public enum Verdict
{
    /// <summary>Nothing was found.</summary>
    Sound,

    /// <summary>Only warnings were found, or something could not be judged.</summary>
    Doubtful,

    /// <summary>A link does not hold.</summary>
    Broken
}

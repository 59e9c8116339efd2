namespace Keel.Core.Mending;

/// <summary>How a reported code or message fits what was found.</summary>
public enum CodeFit
{
    /// <summary>Nothing was reported.</summary>
    NotReported,

    /// <summary>What was reported is not known.</summary>
    Unknown,

    /// <summary>The place where the chain stops leads to it.</summary>
    Fits,

    /// <summary>Something that was found leads to it, and the chain stops before that.</summary>
    FitsAnother,

    /// <summary>Nothing on these disks leads to it.</summary>
    DoesNotFit
}

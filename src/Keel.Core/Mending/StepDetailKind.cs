namespace Keel.Core.Mending;

/// <summary>What a line under a step is about.</summary>
public enum StepDetailKind
{
    /// <summary>Something that changes, or is lost.</summary>
    Change,

    /// <summary>How many Windows installations were found.</summary>
    InstallationCount,

    /// <summary>One of them; it hangs under their number.</summary>
    Installation
}

namespace Keel.Core.Mending;

/// <summary>What the technician allowed beforehand, and where times and new identifiers come from.</summary>
public sealed record RepairTerms(TimeProvider Clock, Func<Guid> NewId)
{
    /// <summary>The usual terms: nothing allowed beyond the harmless.</summary>
    public static RepairTerms Usual { get; } = new(TimeProvider.System, Guid.NewGuid);

    /// <summary>Overwrite boot code of another system's loader.</summary>
    public bool ReplaceForeign { get; init; }
}

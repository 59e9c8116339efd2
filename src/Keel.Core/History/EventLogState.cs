namespace Keel.Core.History;

/// <summary>How an event log was met.</summary>
public sealed class EventLogState
{
    /// <summary>Its path on the volume; null where there is none.</summary>
    public string? Path { get; internal set; }

    /// <summary>Whether it, or a part of it, could not be read.</summary>
    public bool IsUnreadable { get; internal set; }

    /// <summary>Places in it that are damaged and were passed over.</summary>
    public int DamagedPlaces { get; internal set; }
}

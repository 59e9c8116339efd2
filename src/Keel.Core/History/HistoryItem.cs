using Keel.Core.Facts;

namespace Keel.Core.History;

/// <summary>Something that a machine wrote down about its own starts, or about what changed before them: never proof.</summary>
/// <param name="Time">When it happened, or when the file that says it was written; null where that is not known.</param>
/// <param name="Kind">What kind of thing it is.</param>
/// <param name="Says">What it says. May hold text from the disk.</param>
/// <param name="Source">The file that says it, by its path on the volume.</param>
public sealed record HistoryItem(DateTimeOffset? Time, HistoryKind Kind, Remark Says, string Source)
{
    /// <summary>The stop code; null where it is no stop.</summary>
    public uint? StopCode { get; init; }

    /// <summary>The driver or service that it is about; null where it is about none.</summary>
    public string? Driver { get; init; }

    /// <summary>Who logged the event; null where it is from no event log.</summary>
    public string? Provider { get; init; }

    /// <summary>The number of the event within its provider.</summary>
    public int? EventId { get; init; }

    /// <summary>It was written down at a later start: what it tells of happened before.</summary>
    public bool IsNotedLater { get; init; }

    /// <summary>How often the same was noted in a row.</summary>
    public int Times { get; init; } = 1;

    /// <summary>When the first of them was noted; null where it is a single one.</summary>
    public DateTimeOffset? Since { get; init; }

    /// <summary>Whether something changed in the machine.</summary>
    public bool IsChange => Kind is HistoryKind.Driver or HistoryKind.Service or HistoryKind.Update or HistoryKind.UpdateTrouble;
}

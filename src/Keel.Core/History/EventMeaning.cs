using Keel.Core.EventLogs;
using Keel.Core.Facts;

namespace Keel.Core.History;

/// <summary>What an event means for the starts of a machine.</summary>
/// <param name="Kind">What kind of item it makes.</param>
/// <param name="Sentence">The id of the sentence that tells it.</param>
/// <param name="Facts">What of its values goes into the sentence; null where the event says nothing that counts.</param>
internal sealed record EventMeaning(HistoryKind Kind, string Sentence, Func<LoggedEvent, IReadOnlyList<KnownFact>?> Facts)
{
    /// <summary>It is written at the start after that which it tells of.</summary>
    public bool IsNotedLater { get; init; }
}

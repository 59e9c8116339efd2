namespace Keel.Core.Codes;

/// <summary>An error at start, as it stands on the screen, and what it means in the chain.</summary>
/// <param name="Id">How it is shown: <c>0xC0000034</c>, <c>stop 0x0000007B</c>, or the message itself.</param>
/// <param name="Status">The published status name; empty for messages.</param>
/// <param name="Kind">"status", "stop", "screen" (a message without code) or "repair" (met while repairing).</param>
/// <param name="Says">Other wordings of the same.</param>
/// <param name="Meaning">What it means, in a sentence.</param>
/// <param name="Links">Ids of the links it points at; none where the fault lies past the chain.</param>
/// <param name="Causes">Usual causes, most likely first.</param>
/// <param name="Next">What to run next.</param>
/// <param name="Abroad">How it is told in German, French, Spanish, Italian and Portuguese; null for rare ones.</param>
public sealed record StartupError(
    string Id,
    string Status,
    string Kind,
    IReadOnlyList<string> Says,
    string Meaning,
    IReadOnlyList<string> Links,
    IReadOnlyList<StartupErrorCause> Causes,
    IReadOnlyList<string> Next,
    IReadOnlyList<string>? Abroad = null);

namespace Keel.Core.Logbook;

/// <summary>What a search for a repair to take back came to.</summary>
/// <param name="Chosen">The newest repair whose bytes stand on the disk; null where there is none.</param>
/// <param name="Overwritten">A newer repair of surely this disk over which something else has written since; null where there
///     is none.</param>
/// <param name="Elsewhere">A repair that would fit, whose own disk is where it was; null where there is none.</param>
public sealed record UndoSearch(RecordFit? Chosen, RecordFit? Overwritten, RecordFit? Elsewhere);

namespace Keel.Core.Logbook;

/// <summary>The part of a record that is kept as JSON (record.json).</summary>
/// <param name="Id">The name of its folder.</param>
/// <param name="Sequence">Grows with every record of a logbook: clocks of machines that stood still can't be trusted.</param>
/// <param name="Written">When it was written.</param>
/// <param name="Program">The program that wrote it, and its version.</param>
/// <param name="Disks">The disks that were written to.</param>
/// <param name="Steps">What was done, in words.</param>
/// <param name="Variables">The variables that were written; null where none were.</param>
/// <param name="TakesBack">The id of the record that this one took back, on a disk that was not surely the same or had
///     changed; null for a repair.</param>
public sealed record RecordDocument(
    string Id,
    long Sequence,
    DateTimeOffset Written,
    string Program,
    IReadOnlyList<RecordedDisk> Disks,
    IReadOnlyList<RecordedStep> Steps,
    RecordedVariables? Variables = null,
    string? TakesBack = null);

namespace Keel.Core.Logbook;

/// <summary>The part of a record that is kept as JSON (record.json).</summary>
public sealed record RecordDocument(string Id, DateTimeOffset Written, string Program, IReadOnlyList<RecordedDisk> Disks, IReadOnlyList<RecordedStep> Steps, RecordedVariables? Variables = null);

namespace Keel.Core.Logbook;

/// <summary>A step of the plan that was carried out.</summary>
public sealed record RecordedStep(string Link, string Finding, string Summary);

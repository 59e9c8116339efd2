namespace Keel.Core.Facts;

/// <summary>One thing that was seen or decided. May hold text from a disk: escape it before printing.</summary>
/// <param name="Name">What it is about; see <see cref="Fact"/>.</param>
/// <param name="Value">What is known.</param>
public sealed record KnownFact(string Name, object Value);

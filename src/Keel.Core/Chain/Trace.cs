using Keel.Core.Facts;

namespace Keel.Core.Chain;

/// <summary>Something that the machine itself wrote down about its starts: history, never proof.</summary>
/// <param name="Path">The file that says it.</param>
/// <param name="Written">When the file was last written; null where that is not known.</param>
/// <param name="Says">What it says. May hold text from the disk.</param>
public sealed record Trace(string Path, DateTimeOffset? Written, Remark Says);

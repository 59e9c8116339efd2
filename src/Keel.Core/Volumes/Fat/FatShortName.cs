namespace Keel.Core.Volumes.Fat;

/// <summary>The short name of a file, and how the name as it is written is kept.</summary>
/// <param name="Bytes">8 and 3 letters, filled with spaces.</param>
/// <param name="NeedsLong">The name as it is written needs slots of its own.</param>
/// <param name="LowerBase">It is the short name, its 8 letters written small.</param>
/// <param name="LowerExtension">The same for the 3 letters.</param>
internal sealed record FatShortName(byte[] Bytes, bool NeedsLong, bool LowerBase, bool LowerExtension);

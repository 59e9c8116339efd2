namespace Keel.Core.EventLogs;

/// <summary>A piece of binary XML: its leaves, and where the values lie that fill them.</summary>
/// <param name="Leaves">What the template, or the piece itself, holds.</param>
/// <param name="Values">The values by place: where each lies in the chunk, its size in bytes, its type.</param>
internal sealed record XmlPiece(IReadOnlyList<XmlLeaf> Leaves, IReadOnlyList<(int At, int Size, byte Type)> Values);

namespace Keel.Core.EventLogs;

/// <summary>A piece of content of an event's XML: of an element, or of an attribute of it.</summary>
/// <param name="Element">The name of the element.</param>
/// <param name="Ordinal">Which element, counted in the order in which they open.</param>
/// <param name="Attribute">The name of the attribute; null for the element's own content.</param>
/// <param name="Literal">The text, where it stands in the XML itself.</param>
/// <param name="Place">Which of the values stands there, from 0; -1 where the text does.</param>
internal sealed record XmlLeaf(string Element, int Ordinal, string? Attribute, string Literal, int Place);

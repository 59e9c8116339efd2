namespace Keel.Cli.Views.Json;

/// <summary>A word of a document that is one of a closed set; its schema lists them.</summary>
/// <param name="set">The names of the set, which the document has in lower case.</param>
[AttributeUsage(AttributeTargets.Property)]
internal sealed class OneOfAttribute(Type set) : Attribute
{
    /// <summary>An enum.</summary>
    public Type Set { get; } = set;
}

namespace Keel.Tests;

/// <summary>One call that reaches storage.</summary>
/// <param name="Path">The file or folder, or the name of the disk.</param>
internal sealed record StorageCall(StorageCallKind Kind, string Path)
{
    public string Target { get; init; } = "";

    public long Offset { get; init; }

    public byte[] Bytes { get; init; } = [];
}

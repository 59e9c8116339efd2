namespace Keel.Core.Keys;

/// <summary>One key that somebody holds.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Content">
/// The recovery key's 16 bytes, the SHA-256 of the password's UTF-16, or the startup key's 32 bytes.
/// </param>
/// <param name="From">Where it came from, for errors: a file's name, or "the terminal". Nothing of the key.</param>
public sealed record VolumeKey(VolumeKeyKind Kind, Secret Content, string From)
{
    /// <summary>The protector that it belongs to, in full or its first digits; null where that was not said.</summary>
    public string? Protector { get; init; }

    /// <summary>Whether it stands on a page with others, of which one will do.</summary>
    public bool IsOneOfSeveral { get; init; }

    /// <summary>Whether it comes from a list for many machines, so that it may fit none of these volumes.</summary>
    public bool IsFromList { get; init; }
}

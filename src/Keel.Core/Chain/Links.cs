namespace Keel.Core.Chain;

/// <summary>What links are called.</summary>
public static class Links
{
    /// <summary>The id: its name in small letters, its words parted by hyphens, as in "boot-sector".</summary>
    public static string Id(this Link link)
    {
        var parts = link.ToString().Select((letter, index) => index > 0 && char.IsUpper(letter) ? $"-{letter}" : $"{letter}");
        return string.Concat(parts).ToLowerInvariant();
    }
}

namespace Keel.Cli.Commands;

/// <summary>What fits as the word of a command line that is being typed.</summary>
/// <param name="Words">Whole words as they are meant, nothing quoted; some come from a disk, and can hold anything.</param>
/// <param name="TakesFiles">Whether the name of a file of this computer fits too.</param>
internal sealed record SuggestedWords(IReadOnlyList<string> Words, bool TakesFiles)
{
    /// <summary>Nothing is known to fit.</summary>
    public static readonly SuggestedWords None = new([], TakesFiles: false);
}

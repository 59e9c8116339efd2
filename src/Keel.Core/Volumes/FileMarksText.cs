namespace Keel.Core.Volumes;

/// <summary>Attributes in words.</summary>
public static class FileMarksText
{
    private static readonly (FileMarks Mark, string Word)[] All =
    [
        (FileMarks.ReadOnly, "readonly"),
        (FileMarks.Hidden, "hidden"),
        (FileMarks.System, "system"),
        (FileMarks.Archive, "archive"),
        (FileMarks.Compressed, "compressed"),
        (FileMarks.Encrypted, "encrypted"),
        (FileMarks.Sparse, "sparse"),
        (FileMarks.Reparse, "reparse point")
    ];

    /// <summary>Such as "readonly, hidden"; "none" where there are none.</summary>
    public static string Words(FileMarks marks)
    {
        var words = string.Join(", ", All.Where(entry => (marks & entry.Mark) != FileMarks.None).Select(entry => entry.Word));
        return words.Length > 0 ? words : "none";
    }

    /// <summary>A changeable attribute by its word; null where there is none of that name.</summary>
    public static FileMarks? TryParse(string word)
    {
        var found = Array.Find(
            All,
            entry =>
                entry.Word.Equals(word, StringComparison.OrdinalIgnoreCase)
                    && (entry.Mark & FileMarks.Changeable) != FileMarks.None);
        return found.Word is null ? null : found.Mark;
    }
}

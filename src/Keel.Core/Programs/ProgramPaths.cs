using Keel.Core.Volumes;

namespace Keel.Core.Programs;

/// <summary>Which file a command line of Windows starts.</summary>
/// <param name="Files">The volume of Windows.</param>
/// <param name="Folder">The folder of Windows.</param>
/// <param name="Letter">The letter that it calls its own volume by.</param>
public sealed record ProgramPaths(IVolume Files, string Folder, char Letter)
{
    /// <summary>Windows starts no longer command; what a hive says may be far longer.</summary>
    private const int LongestCommand = 2048;

    private static readonly string[] Endings = ["", ".exe", ".com", ".bat", ".cmd"];

    /// <summary>
    /// The path of the program on the volume of Windows, whether it is there or not; null where it lies elsewhere, or nothing
    /// says where.
    /// </summary>
    public string? Of(string command)
    {
        var text = Expand(command[..Math.Min(command.Length, LongestCommand)].Trim());
        if (text.Length == 0) return null;
        if (text[0] == '"') return Placed(text[1..].Split('"')[0]);
        foreach (var end in Ends(text))
        {
            if (Placed(text[..end]) is { } path && Existing(path) is { } existing) return existing;
        }

        var first = text.IndexOf(".exe", StringComparison.OrdinalIgnoreCase);
        return Placed(first > 0 ? text[..(first + 4)] : text.Split(' ')[0]);
    }

    /// <summary>Whether the file of a command is on the volume; null where it lies elsewhere.</summary>
    public bool? IsThere(string command) => Of(command) is { } path ? Existing(path) is not null : null;

    /// <summary>A path with blanks may end at each of them, as Windows tries it.</summary>
    private static IEnumerable<int> Ends(string text)
    {
        for (var at = 0; at < text.Length; at++)
        {
            if (text[at] == ' ') yield return at;
        }

        yield return text.Length;
    }

    private string? Existing(string path)
    {
        foreach (var ending in Endings)
        {
            if (Files.FileExists(path + ending)) return path + ending;
        }

        return null;
    }

    /// <summary>A path on the volume; a bare name is looked for where Windows looks first.</summary>
    private string? Placed(string path)
    {
        if (path is [var letter, ':', '\\', ..]) return char.ToUpperInvariant(letter) == Letter ? path[2..] : null;
        if (path.StartsWith(@"\\", StringComparison.Ordinal)) return null;
        if (path.StartsWith('\\')) return path;
        string[] places = [$@"{Folder}\System32\{path}", $@"{Folder}\{path}"];
        return Array.Find(places, place => Existing(place) is not null) ?? places[0];
    }

    private string Expand(string text)
    {
        (string Name, string Value)[] known =
        [
            ("%SystemRoot%", $"{Letter}:{Folder}"), ("%windir%", $"{Letter}:{Folder}"), ("%SystemDrive%", $"{Letter}:"),
            ("%ProgramFiles%", $@"{Letter}:\Program Files"), ("%ProgramFiles(x86)%", $@"{Letter}:\Program Files (x86)"),
            ("%ProgramData%", $@"{Letter}:\ProgramData"), ("%ProgramW6432%", $@"{Letter}:\Program Files")
        ];
        foreach (var (name, value) in known) text = text.Replace(name, value, StringComparison.OrdinalIgnoreCase);
        return text;
    }
}

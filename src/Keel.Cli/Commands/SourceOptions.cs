using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Core.Errors;
using Keel.Core.Windows;
using Keel.Core.Windows.Media;

namespace Keel.Cli.Commands;

/// <summary>Where copies of Windows' files may be taken from, besides the machine's own.</summary>
internal static class SourceOptions
{
    public static Option<string[]> From() => new("--from")
    {
        Description = "a medium, ISO, WIM or folder to take copies from",
        HelpName = "PLACE",
        DefaultValueFactory = _ => []
    };

    public static Option<bool> OtherRevision() =>
        new("--other-revision") { Description = "also copies of another revision of the same build" };

    /// <summary>The places as options, to be typed again.</summary>
    public static string Words(IEnumerable<string> places, bool otherRevision = false) =>
        string.Concat(places.Select(place => $" --from {CommandWords.Quoted(place)}"))
            + (otherRevision ? " --other-revision" : "");

    /// <summary>What the places have to copy from.</summary>
    /// <exception cref="WrongUsageException">There is no such place.</exception>
    public static IReadOnlyList<IFileTree> Of(IEnumerable<string> places) => [.. places.SelectMany(Of)];

    private static IReadOnlyList<IFileTree> Of(string place)
    {
        if (File.Exists(place) || Directory.Exists(place)) return MediumTrees.Of(place);
        throw new WrongUsageException(
            $"{place} is not there.",
            "Copies are taken from a folder, an image of a medium, or an image of files (WIM, ESD).",
            "Mount the medium, or name its ISO image.");
    }
}

using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>What was said of a check of files.</summary>
public sealed record FileCheckTerms
{
    public FileScope Scope { get; init; }

    /// <summary>Where copies may be taken from besides the machine's own: media, folders, other Windows.</summary>
    public IReadOnlyList<IFileTree> Sources { get; init; } = [];

    /// <summary>Whether a copy of another revision of the same build will do.</summary>
    public bool OtherRevision { get; init; }

    /// <summary>Told what is done, and how many of it are done.</summary>
    public Action<string, int, int> Progress { get; init; } = (_, _, _) => { };
}

using Keel.Core.Facts;
using Keel.Core.Volumes;

namespace Keel.Core.History;

/// <summary>Where a Windows keeps what it remembers.</summary>
/// <param name="Files">The files of its volume.</param>
/// <param name="Folder">Such as <c>\Windows</c>.</param>
internal sealed record HistoryPlace(IVolume Files, string Folder)
{
    public string System32 => $@"{Folder}\System32";

    /// <summary>An item that carries the time of its file.</summary>
    public HistoryItem ItemAt(string path, HistoryKind kind, Remark says) => new(Files.WrittenAt(path), kind, says, path);
}

namespace Keel.Core.Logbook;

/// <summary>
/// Creates folders so that they are still there after a power cut: each is flushed into the one above, up to one that existed.
/// </summary>
internal sealed class LogbookFolders(IStableStorage storage)
{
    private readonly List<string> created = [];

    /// <summary>Creates a folder and those above it, where missing.</summary>
    public void Create(string path)
    {
        var missing = new Stack<string>();
        for (var at = path; at.Length > 0 && !Directory.Exists(at); at = Path.GetDirectoryName(at) ?? "") missing.Push(at);
        while (missing.TryPop(out var folder))
        {
            if (storage.CreateFolder(folder)) created.Add(folder);
            storage.FlushFolder(Path.GetDirectoryName(folder)!);
        }
    }

    /// <summary>Takes away what was created here and is still empty.</summary>
    public void UndoTargets()
    {
        foreach (var folder in created.AsEnumerable().Reverse())
        {
            if (Directory.Exists(folder) && !Directory.EnumerateFileSystemEntries(folder).Any()) storage.DeleteFolder(folder);
        }
    }
}

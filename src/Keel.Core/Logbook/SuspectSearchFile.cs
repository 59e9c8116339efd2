using System.Text;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Requests;

namespace Keel.Core.Logbook;

/// <summary>A search for a program, remembered in the logbook's folder from one start of the machine to the next.</summary>
/// <param name="folder">The folder of the logbook.</param>
/// <param name="disk">The disk that the machine starts from.</param>
public sealed class SuspectSearchFile(string folder, DiskIdentity disk)
{
    private const string Any = "program ", Suspect = "suspect ", Off = "off ";
    private const int MostBytes = 1024 * 1024;
    private readonly string path = Path.Combine(folder, $"halving-{disk}.txt");

    /// <summary>The search that is under way; null where there is none, or its file is no longer one.</summary>
    public SuspectSearch? Read()
    {
        try
        {
            if (HostFile.ReadIfThere(path, MostBytes, followLink: false) is not { } bytes) return null;
            var lines = Encoding.UTF8.GetString(bytes).Split('\n');
            return new SuspectSearch(Those(lines, Any), Those(lines, Suspect), Those(lines, Off));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    /// <summary>Remembers a search in place of the one before; it is whole or not there.</summary>
    /// <exception cref="UnreadableException">The folder can't be written.</exception>
    public void Write(SuspectSearch halving)
    {
        try
        {
            Directory.CreateDirectory(folder);
            IEnumerable<string> lines =
            [
                .. halving.All.Select(id => Any + id),
                .. halving.Suspects.Select(id => Suspect + id),
                .. halving.Off.Select(id => Off + id)
            ];
            HostFile.Write(path, Encoding.UTF8.GetBytes(string.Concat(lines.Select(line => line + "\n"))));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                "The search can't be remembered.",
                $"The system says: {e.Message}",
                "Name a folder that lasts with --logbook.",
                e);
        }
    }

    public void Forget()
    {
        if (File.Exists(path)) File.Delete(path);
    }

    private static IReadOnlyList<string> Those(string[] lines, string start) =>
        [.. lines.Where(line => line.StartsWith(start, StringComparison.Ordinal)).Select(line => line[start.Length..])];
}

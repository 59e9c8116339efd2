using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Volumes;

namespace Keel.Core.History;

/// <summary>The crash dumps of a Windows, as items.</summary>
internal static class CrashDumpHistory
{
    private const int DumpsLimit = 64;

    /// <summary>The newest dumps; damaged ones are passed over.</summary>
    public static IEnumerable<HistoryItem> Read(HistoryPlace place)
    {
        var folder = $@"{place.Folder}\Minidump";
        var paths = place.Files.List(folder)
            .Where(file => !file.IsFolder && file.Name.EndsWith(".dmp", StringComparison.OrdinalIgnoreCase))
            .Select(file => $@"{folder}\{file.Name}")
            .OrderByDescending(place.Files.WrittenAt)
            .Take(DumpsLimit)
            .Prepend($@"{place.Folder}\MEMORY.DMP");
        foreach (var path in paths)
        {
            if (TryRead(place, path) is not { } dump) continue;
            yield return new HistoryItem(
                dump.Time ?? place.Files.WrittenAt(path),
                HistoryKind.Stop,
                Remark.Of(
                    "history.dump",
                    Fact.Stop.Is(StopCode.Text(dump.Code)),
                    Fact.Parameters.Is([.. dump.Parameters.Select(value => $"0x{value:x}")])),
                path)
            { StopCode = dump.Code };
        }
    }

    private static CrashDump? TryRead(HistoryPlace place, string path)
    {
        try
        {
            return place.Files.FileExists(path) ? CrashDump.TryRead(place.Files.OpenFile(path)) : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }
}

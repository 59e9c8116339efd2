using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>Reads copies of hives whole, and passes over those that are not sound.</summary>
public static class HiveCopies
{
    private const int LimitBytes = 512 * 1024 * 1024;

    /// <summary>The whole bytes of a hive, its logs applied; null where it is not there, or damaged.</summary>
    public static byte[]? TryRead(IVolume files, string path)
    {
        try
        {
            if (files.Find(path) is not { IsFolder: false, SizeBytes: >= 2 * HiveHeader.Size }) return null;
            var bytes = files.ReadFile(path, LimitBytes);
            if (HiveHeader.TryRead(bytes) is not { } header) return null;
            if (!header.IsClean) bytes = HiveLog.Apply(bytes, HiveLogFiles.Read(files, path, LimitBytes)) ?? bytes;
            var hive = Hive.Open(bytes);
            _ = hive.ReadTree();
            return hive.Damage.Count == 0 ? bytes : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }
}

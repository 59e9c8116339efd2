using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Chain;

/// <summary>The store of a machine, or why there is none.</summary>
/// <param name="Path">Where it is or should be, on the system volume.</param>
/// <param name="Reason">What is wrong with it; empty where it loaded.</param>
public sealed record StoreState(StoreCondition Condition, string Path, string Reason, BootStore? Store)
{
    private const int StoreLimitBytes = 32 * 1024 * 1024;

    internal static StoreState Read(DiskVolume? volume, string path)
    {
        if (volume?.Files is not { } files) return new StoreState(StoreCondition.NoVolume, path, "the system volume can't be read", null);
        if (files.Find(path) is not { } file) return new StoreState(StoreCondition.Missing, path, $"{path} is not on {volume}", null);
        if (file.IsFolder) return new StoreState(StoreCondition.Folder, path, $"{path} on {volume} is a folder", null);
        if (file.SizeBytes < 2 * HiveHeader.Size)
            return new StoreState(StoreCondition.Truncated, path, $"{path} on {volume} has {file.SizeBytes} bytes; a store has at least {2 * HiveHeader.Size}", null);
        try
        {
            return Load(files.ReadFile(path, StoreLimitBytes), volume, path);
        }
        catch (KeelException e)
        {
            return new StoreState(StoreCondition.Unreadable, path, $"{path} on {volume}: {e.Why}", null);
        }
    }

    private static StoreState Load(byte[] bytes, DiskVolume volume, string path)
    {
        var header = Hive.Open(bytes).Header;
        var needed = HiveHeader.Size + (long)header.BinsBytes;
        if (needed > bytes.Length)
            return new StoreState(StoreCondition.Truncated, path, $"{path} on {volume} has {bytes.Length} bytes of the {needed} that its header speaks of", null);
        var store = BootStore.Read(bytes);
        return store.Damage.Count > 0
            ? new StoreState(StoreCondition.Unreadable, path, $"{path} on {volume}: {store.Damage[0]}", store)
            : new StoreState(StoreCondition.Loaded, path, "", store);
    }
}

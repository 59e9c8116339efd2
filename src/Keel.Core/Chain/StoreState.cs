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
    private static readonly string[] LogEndings = [".LOG", ".LOG1", ".LOG2"];
    private const int StoreLimitBytes = 32 * 1024 * 1024;

    /// <summary>The disk's error, where it did not give the store: then nothing is known of it.</summary>
    public ReadFailedException? DiskError { get; private init; }

    internal static StoreState Read(DiskVolume? volume, string path)
    {
        try
        {
            return Look(volume, path);
        }
        catch (ReadFailedException e)
        {
            return new StoreState(StoreCondition.Unreadable, path, $"{path} on {volume}: {e.What}", null) { DiskError = e };
        }
        catch (KeelException e)
        {
            return new StoreState(StoreCondition.Unreadable, path, $"{path} on {volume}: {e.Why}", null);
        }
    }

    private static StoreState Look(DiskVolume? volume, string path)
    {
        if (volume?.Files is not { } files) return new StoreState(StoreCondition.NoVolume, path, "the system volume can't be read", null);
        if (files.Find(path) is not { } file) return new StoreState(StoreCondition.Missing, path, $"{path} is not on {volume}", null);
        if (file.IsFolder) return new StoreState(StoreCondition.Folder, path, $"{path} on {volume} is a folder", null);
        if (file.SizeBytes < 2 * HiveHeader.Size)
            return new StoreState(StoreCondition.Truncated, path, $"{path} on {volume} has {file.SizeBytes} bytes; a store has at least {2 * HiveHeader.Size}", null);
        return Load(files, files.ReadFile(path, StoreLimitBytes), $"{path} on {volume}", path);
    }

    private static StoreState Load(IVolume files, byte[] bytes, string where, string path)
    {
        var header = HiveHeader.TryRead(bytes);
        if (header is null) return new StoreState(StoreCondition.Unreadable, path, $"{where} does not begin with the mark of a hive", BootStore.Salvage(bytes));
        var logs = LogEndings.Where(ending => files.FileExists(path + ending)).Select(ending => files.ReadFile(path + ending, StoreLimitBytes));
        if (!header.IsClean && HiveLog.Apply(bytes, logs) is { } applied && BootStore.Read(applied) is { Damage.Count: 0 } whole)
            return new StoreState(StoreCondition.Torn, path, $"{where} was being written (sequence {header.PrimarySequence} and {header.SecondarySequence}); its log has the rest", whole);
        var needed = HiveHeader.Size + (long)header.BinsBytes;
        if (needed > bytes.Length && header.ChecksumMatches) return new StoreState(StoreCondition.Truncated, path, $"{where} has {bytes.Length} bytes of the {needed} that its header speaks of", BootStore.Salvage(bytes));
        return Judge(bytes, header, where, path);
    }

    private static StoreState Judge(byte[] bytes, HiveHeader header, string where, string path)
    {
        BootStore store;
        try
        {
            store = BootStore.Read(bytes);
        }
        catch (HiveDamagedException e)
        {
            return new StoreState(StoreCondition.Unreadable, path, $"{where}: {e.Why}", BootStore.Salvage(bytes));
        }

        if (store.Damage.Count > 0) return new StoreState(StoreCondition.Unreadable, path, $"{where}: {store.Damage[0]}", BootStore.Salvage(bytes));
        return header.ChecksumMatches
            ? new StoreState(StoreCondition.Loaded, path, "", store)
            : new StoreState(StoreCondition.BadChecksum, path, $"the checksum in the base block of {where} is wrong", store);
    }
}

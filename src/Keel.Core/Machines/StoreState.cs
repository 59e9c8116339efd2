using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Machines;

/// <summary>The store of a machine, or why there is none.</summary>
/// <param name="Condition">Whether it could be read.</param>
/// <param name="Path">Where it is or should be, on the system volume.</param>
/// <param name="Seen">What is wrong with it; null where it loaded.</param>
/// <param name="Store">The store; null where it could not be read.</param>
public sealed record StoreState(StoreCondition Condition, string Path, Remark? Seen, BootStore? Store)
{
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
            return new StoreState(
                StoreCondition.Unreadable,
                path,
                Remark.Of("store.said", [.. Where(volume, path), Fact.Said.Is(e.What)]),
                null)
            { DiskError = e };
        }
        catch (KeelException e)
        {
            return new StoreState(
                StoreCondition.Unreadable,
                path,
                Remark.Of("store.said", [.. Where(volume, path), Fact.Said.Is(e.Why)]),
                null);
        }
    }

    private static StoreState Look(DiskVolume? volume, string path)
    {
        if (volume?.Files is not { } files)
            return new StoreState(StoreCondition.NoVolume, path, Remark.Of("system-volume.unreadable"), null);
        var where = Where(volume, path);
        if (files.Find(path) is not { } file)
            return new StoreState(StoreCondition.Missing, path, Remark.Of("file.missing", where), null);
        if (file.IsFolder) return new StoreState(StoreCondition.Folder, path, Remark.Of("file.folder", where), null);
        if (file.SizeBytes < 2 * HiveHeader.Size)
        {
            return new StoreState(
                StoreCondition.Truncated,
                path,
                Remark.Of(
                    "store.too-short",
                    [.. where, Fact.SizeBytes.Is(file.SizeBytes), Fact.NeededBytes.Is(2 * HiveHeader.Size)]),
                null);
        }

        return Load(files, files.ReadFile(path, StoreLimitBytes), where, path);
    }

    private static KnownFact[] Where(DiskVolume? volume, string path) =>
        volume is null ? [Fact.Path.Is(path)] : [Fact.Path.Is(path), Fact.Volume.Is(volume.Ref)];

    private static StoreState Load(IVolume files, byte[] bytes, KnownFact[] where, string path)
    {
        var header = HiveHeader.TryRead(bytes);
        if (header is null)
            return new StoreState(StoreCondition.Unreadable, path, Remark.Of("hive.no-mark", where), BootStore.Salvage(bytes));
        var logs = HiveLogFiles.Read(files, path, StoreLimitBytes);
        if (!header.IsClean && HiveLog.Apply(bytes, logs) is { } applied && BootStore.Read(applied) is { Damage.Count: 0 } whole)
        {
            return new StoreState(
                StoreCondition.Torn,
                path,
                Remark.Of(
                    "hive.torn",
                    [.. where, Fact.Sequence.Is(header.PrimarySequence), Fact.OtherSequence.Is(header.SecondarySequence)]),
                whole);
        }

        var needed = HiveHeader.Size + (long)header.BinsBytes;
        if (needed > bytes.Length && header.ChecksumMatches)
        {
            return new StoreState(
                StoreCondition.Truncated,
                path,
                Remark.Of("hive.cut-short", [.. where, Fact.SizeBytes.Is(bytes.Length), Fact.NeededBytes.Is(needed)]),
                BootStore.Salvage(bytes));
        }

        return Judge(bytes, header, where, path);
    }

    private static StoreState Judge(byte[] bytes, HiveHeader header, KnownFact[] where, string path)
    {
        BootStore store;
        try
        {
            store = BootStore.Read(bytes);
        }
        catch (HiveDamagedException e)
        {
            return new StoreState(
                StoreCondition.Unreadable,
                path,
                Remark.Of("store.said", [.. where, Fact.Said.Is(e.Why)]),
                BootStore.Salvage(bytes));
        }

        if (store.Damage.Count > 0)
        {
            return new StoreState(
                StoreCondition.Unreadable,
                path,
                Remark.Of("store.said", [.. where, Fact.Said.Is(store.Damage[0])]),
                BootStore.Salvage(bytes));
        }

        if (Hive.Open(bytes).FirstBroken() is { } broken)
        {
            return new StoreState(
                StoreCondition.Unreadable,
                path,
                Remark.Of("store.said", [.. where, Fact.Said.Is(broken)]),
                store);
        }

        return header.ChecksumMatches
            ? new StoreState(StoreCondition.Loaded, path, null, store)
            : new StoreState(StoreCondition.BadChecksum, path, Remark.Of("hive.checksum", where), store);
    }
}

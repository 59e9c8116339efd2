using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Volumes.Snapshots;

/// <summary>The snapshots of a volume, read through libvshadow; nothing of it is ever written.</summary>
public sealed unsafe class VolumeSnapshots : IDisposable
{
    /// <summary>Bits of VSS_VOLUME_SNAPSHOT_ATTRIBUTES that tell the contexts apart.</summary>
    private const uint Persistent = 0x1, ClientAccessible = 0x4, NoWriters = 0x10;

    private readonly ShadowLibrary library;
    private readonly ShadowInput input;
    private readonly SnapshotChains chains;
    private readonly IReadOnlyList<SnapshotPlacesRecord> places;
    private readonly IReadableBlocks blocks;
    private readonly string name;
    private readonly List<nint> stores = [];
    private readonly Dictionary<int, IVolume> opened = [];
    private nint volume;

    private VolumeSnapshots(ShadowLibrary library, IReadableBlocks blocks, string name, long catalogAt)
    {
        this.library = library;
        this.blocks = blocks;
        this.name = name;
        chains = new SnapshotChains(blocks);
        places = chains.Catalog(catalogAt);
        input = new ShadowInput(library, blocks);
        try
        {
            OpenVolume();
            List = ReadList();
        }
        catch
        {
            Dispose();
            throw;
        }
    }

    /// <summary>The youngest first.</summary>
    public IReadOnlyList<Snapshot> List { get; }

    /// <summary>Whether a volume says that it has some; nothing but one sector is read.</summary>
    public static bool AreOn(IReadableBlocks volume) => SnapshotChains.CatalogOf(volume) is not null;

    /// <summary>Opens them; null where the volume has none.</summary>
    /// <exception cref="UnreadableException">They are damaged, or the library is not installed.</exception>
    public static VolumeSnapshots? Open(IReadableBlocks volume, string name) =>
        SnapshotChains.CatalogOf(volume) is { } catalogAt
            ? new VolumeSnapshots(ShadowLibrary.Load(), volume, name, catalogAt)
            : null;

    /// <summary>The files of a snapshot, for looking.</summary>
    /// <exception cref="UnreadableException">They can't be read.</exception>
    public IVolume Files(Snapshot snapshot)
    {
        if (opened.TryGetValue(snapshot.Number, out var files)) return files;
        var index = stores.Count - snapshot.Number;
        foreach (var list in places) chains.CheckLists(list);
        var length = Math.Min(snapshot.VolumeBytes, blocks.LengthBytes);
        var state = new Overlay(new CachedBlocks(new SnapshotBlocks(this, stores[index], length, blocks.SectorBytes)));
        return opened[snapshot.Number] = NtfsVolume.Open(state, $"snapshot {snapshot.Number} of {name}");
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var files in opened.Values) files.Dispose();
        opened.Clear();
        nint error = 0;
        foreach (var store in stores)
        {
            var freed = store;
            _ = library.StoreFree(&freed, &error);
        }

        stores.Clear();
        if (volume != 0)
        {
            var freed = volume;
            _ = library.VolumeClose(volume, &error);
            _ = library.VolumeFree(&freed, &error);
            volume = 0;
        }

        input.Dispose();
    }

    internal void Read(nint store, long offsetBytes, Span<byte> buffer)
    {
        input.Forget();
        fixed (byte* start = buffer)
        {
            for (var done = 0; done < buffer.Length;)
            {
                nint error = 0;
                var count = library.StoreRead(store, start + done, (nuint)(buffer.Length - done), offsetBytes + done, &error);
                if (count <= 0) throw library.Failed(error, input.Fault);
                done += (int)count;
            }
        }
    }

    private void OpenVolume()
    {
        nint made = 0, error = 0;
        Check(library.VolumeInitialize(&made, &error), error);
        volume = made;
        Check(library.VolumeOpen(volume, input.Handle, ShadowLibrary.ReadAccess, &error), error);
        var count = 0;
        Check(library.StoreCount(volume, &count, &error), error);
        for (var index = 0; index < Math.Min(count, SnapshotChains.MostSnapshots); index++)
        {
            nint store = 0;
            Check(library.GetStore(volume, index, &store, &error), error);
            stores.Add(store);
        }
    }

    private List<Snapshot> ReadList()
    {
        var list = new List<Snapshot>();
        for (var index = stores.Count - 1; index >= 0; index--)
        {
            nint error = 0;
            ulong made = 0, bytes = 0;
            uint flags = 0;
            var id = Guid.Empty;
            Check(library.StoreMade(stores[index], &made, &error), error);
            Check(library.StoreVolumeBytes(stores[index], &bytes, &error), error);
            Check(library.StoreCopyId(stores[index], (byte*)&id, (nuint)sizeof(Guid), &error), error);
            Check(library.StoreFlags(stores[index], &flags, &error), error);
            list.Add(new Snapshot(
                stores.Count - index,
                TimeOf(made),
                CauseOf(flags),
                id,
                (long)Math.Min(bytes, long.MaxValue)));
        }

        return list;
    }

    private static DateTimeOffset TimeOf(ulong fileTime) =>
        fileTime <= (ulong)DateTimeOffset.MaxValue.ToFileTime()
            ? DateTimeOffset.FromFileTime((long)fileTime).ToUniversalTime()
            : DateTimeOffset.FromFileTime(0).ToUniversalTime();

    private static SnapshotCause CauseOf(uint flags) =>
        (flags & Persistent) == 0 ? SnapshotCause.Backup
        : (flags & ClientAccessible) == 0 ? SnapshotCause.Rollback
        : (flags & NoWriters) != 0 ? SnapshotCause.EarlierVersions
        : SnapshotCause.RestorePoint;

    private void Check(int result, nint error)
    {
        if (result != 1) throw library.Failed(error, input.Fault);
    }
}

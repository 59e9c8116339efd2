using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Layout;
using Keel.Core.Logbook;
using Keel.Core.Mending;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>A small disk in memory with a repair planned on it, and a logbook of its own.</summary>
internal sealed class RepairCase : IDisposable
{
    public const string DiskName = "practice-disk";
    public const int DiskBytes = 3_000_000;
    public static readonly RecordedStep[] Steps = [new("store", "store-missing", "Build a new store.")];
    private readonly Scratch scratch = new();

    /// <param name="trace">Where the calls to storage are written down, and one of them fails; null for real storage.</param>
    public RepairCase(StorageTrace? trace = null)
    {
        Old = new byte[DiskBytes];
        new Random(11).NextBytes(Old);
        Disk = new MemoryBlocks(Old.ToArray());
        Overlay = new Overlay(Disk);
        Overlay.Write(5000, new byte[700]);
        Overlay.Write(100_000, new byte[40_000]);
        Overlay.Write(1_000_000, new byte[1_500_000]);
        Wanted = Overlay.ReadBytes(0, DiskBytes);
        Changes = ChangesOf(Overlay);
        Logbook = new RepairLogbook(LogbookFolder, trace is null ? null : new RecordingStorage(trace));
    }

    public MemoryBlocks Disk { get; }

    public byte[] Old { get; }

    public byte[] Wanted { get; }

    public Overlay Overlay { get; }

    public ChangeSet Changes { get; }

    public RepairLogbook Logbook { get; }

    public string Folder => scratch.Folder;

    public string LogbookFolder => scratch["logbook"];

    public DiskTraits Traits { get; init; } = new("Brackwater", "BF-0001", null);

    public DiskSeen Seen => new(DiskName, Disk, DiskIdentity.OfMbr(0xB4AC0042), Traits);

    public Commit Writer(IWritableBlocks? disk = null, TimeProvider? clock = null) =>
        new(Logbook, _ => disk ?? Disk, clock ?? TimeProvider.System, "keel test");

    public ChangeSet ChangesOf(Overlay overlay) =>
        new(
            [new DiskChange(DiskName, Traits, DiskIdentity.OfMbr(0xB4AC0042), DiskIdentity.OfMbr(0xB4AC0042), overlay.Changes())],
            null);

    public UndoTargets Work(RepairRecord record) => new(record, [new RecordFit(record, 0, Seen)], null);

    public UndoSearch Search() => RecordSearch.Newest(Logbook.Read(), Seen);

    public void Dispose() => scratch.Dispose();
}

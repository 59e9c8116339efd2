using System.Text.Json;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Core.Logbook;

/// <summary>One repair in the logbook: a folder with record.json, the bytes before and after, and how far it came.</summary>
public sealed class RepairRecord
{
    internal const string DocumentFile = "record.json", BeforeFile = "before.bin", AfterFile = "after.bin", StateFile = "state";
    internal const string SpareRoomFile = "room", SealFile = "seal";
    private const int SpareRoomBytes = 64 * 1024;
    private const long SmallFileLimit = 16 * 1024 * 1024;
    private readonly string folder;
    private readonly IStableStorage storage;
    private RecordStates states;

    private RepairRecord(string folder, IStableStorage storage, RecordDocument document, RecordStates states)
    {
        this.folder = folder;
        this.storage = storage;
        this.states = states;
        Document = document;
    }

    /// <summary>What the record says.</summary>
    public RecordDocument Document { get; }

    /// <summary>How far each disk came, and after them the firmware's variables where there are some.</summary>
    public IReadOnlyList<RecordState> Parts => states.Parts;

    /// <summary>How far the repair came as a whole.</summary>
    public RecordState State => Parts.Contains(RecordState.Writing) ? RecordState.Writing
        : Parts.Contains(RecordState.Undoing) ? RecordState.Undoing
        : Parts.Contains(RecordState.Done) ? RecordState.Done
        : RecordState.Undone;

    /// <summary>True where writing or undoing was cut off: a disk is between two states.</summary>
    public bool IsPending => Parts.Any(IsBetween);

    /// <summary>The part that is the firmware's variables; null where the repair wrote none.</summary>
    public int? VariablesPart => Document.Variables is null ? null : Document.Disks.Count;

    /// <summary>Whether a state is between two others.</summary>
    public static bool IsBetween(RecordState state) => state is RecordState.Writing or RecordState.Undoing;

    /// <summary>Writes a new record to stable storage, and reads it back; only its last act makes it count.</summary>
    /// <param name="folder">The folder of the record.</param>
    /// <param name="storage">How bytes reach the disk that the logbook is on.</param>
    /// <param name="ranges">The bytes of every range, disk by disk; each is written as it comes.</param>
    /// <param name="describe">Makes the document from the ranges with their checksums.</param>
    /// <param name="key">What it is sealed with; null for nothing.</param>
    internal static RepairRecord Create(
        string folder,
        IStableStorage storage,
        SealKey? key,
        IEnumerable<RecordRange> ranges,
        Func<IReadOnlyList<RecordRange>, RecordDocument> describe)
    {
        var written = new List<RecordRange>();
        Sha256Sum sumBefore = new(), sumAfter = new();
        using (var before = storage.CreateFile(Path.Combine(folder, BeforeFile)))
        using (var after = storage.CreateFile(Path.Combine(folder, AfterFile)))
        {
            foreach (var range in ranges)
            {
                before.Append(range.Before.Span);
                after.Append(range.After.Span);
                sumBefore.Add(range.Before.Span);
                sumAfter.Add(range.After.Span);
                written.Add(range with { Before = default, After = default });
            }

            before.Flush();
            after.Flush();
        }

        var document = describe(written);
        var bytes = JsonSerializer.SerializeToUtf8Bytes(document, RecordJson.Default.RecordDocument);
        WriteDurably(storage, Path.Combine(folder, DocumentFile), bytes);
        var spare = new byte[SpareRoomBytes];
        spare.AsSpan().Fill((byte)' ');
        WriteDurably(storage, Path.Combine(folder, SpareRoomFile), spare);
        if (key is not null)
        {
            var seal = key.Seal(Sha256Sum.Of(bytes), sumBefore.Finish(), sumAfter.Finish());
            WriteDurably(storage, Path.Combine(folder, SealFile), seal);
        }

        storage.FlushFolder(folder);
        storage.FlushFolder(Path.GetDirectoryName(folder)!);
        var states = new RecordStates(
            Checksum.Of(bytes),
            [
                .. document.Disks.Select(AtFirst),
                .. document.Variables is null ? Array.Empty<RecordState>() : [RecordState.Writing]
            ]);
        var record = new RepairRecord(folder, storage, document, states);
        record.ReadBack(states.Document);
        record.WriteState(states.ToBytes());
        return record;
    }

    /// <summary>
    /// Whether it carries the sum that this key makes of it: it was written here, and nothing of it has changed since. False
    /// where it can't be read.
    /// </summary>
    internal bool IsSealedBy(SealKey key)
    {
        try
        {
            var seal = HostFile.Read(Path.Combine(folder, SealFile), Sha256Sum.Bytes, followLink: false);
            var sums = key.Seal(Sha256Sum.Of(ReadSmall(folder, DocumentFile)), SumOf(BeforeFile), SumOf(AfterFile));
            return seal.AsSpan().SequenceEqual(sums);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    }

    private byte[] SumOf(string name)
    {
        const int pieceBytes = 256 * 1024;
        using var file = new FileStream(HostFile.Open(Path.Combine(folder, name), followLink: false), FileAccess.Read);
        var (sum, piece) = (new Sha256Sum(), new byte[pieceBytes]);
        for (int count; (count = file.Read(piece)) > 0;) sum.Add(piece.AsSpan(0, count));
        return sum.Finish();
    }

    /// <summary>Of a disk on which nothing is written nothing will have to be taken back.</summary>
    private static RecordState AtFirst(RecordedDisk disk) => disk.Ranges.Count > 0 ? RecordState.Writing : RecordState.Undone;

    /// <summary>How long the document of a record is, in bytes; 0 where there is none.</summary>
    internal static long DocumentBytes(string folder) =>
        new FileInfo(Path.Combine(folder, DocumentFile)) is { Exists: true } file ? file.Length : 0;

    /// <summary>Reads a record; nothing where its folder was left before it counted.</summary>
    /// <exception cref="DamagedRecordException">It counts, and can't be read.</exception>
    internal static RepairRecord? TryRead(string folder, IStableStorage storage)
    {
        var id = Path.GetFileName(folder);
        try
        {
            if (!File.Exists(Path.Combine(folder, StateFile))) return null;
            if (new DirectoryInfo(folder).LinkTarget is not null) throw new DamagedRecordException(id, "its folder is a link");
            var state = ReadSmall(folder, StateFile);
            if (RecordStates.FormatOf(state) is var format && format != RecordStates.Format)
            {
                throw new DamagedRecordException(
                    id,
                    format > RecordStates.Format
                        ? $"its format is {format}, and this keel knows {RecordStates.Format}"
                        : "its state is not one that keel writes",
                    format > RecordStates.Format);
            }

            var states = RecordStates.TryRead(state) ?? throw new DamagedRecordException(id, "its state fails its checksum");
            var bytes = ReadSmall(folder, DocumentFile);
            if (Checksum.Of(bytes) != states.Document) throw new DamagedRecordException(id, "record.json fails its checksum");
            var document = JsonSerializer.Deserialize(bytes, RecordJson.Default.RecordDocument);
            RecordSanity.Check(id, document, states);
            return new RepairRecord(folder, storage, document!, states);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or JsonException)
        {
            throw new DamagedRecordException(id, e.Message.TrimEnd('.'), inner: e);
        }
    }

    /// <summary>Sets how far parts of the repair came, durably.</summary>
    internal void Become(IReadOnlyCollection<int> parts, RecordState state)
    {
        var next = states with { Parts = [.. states.Parts.Select((old, part) => parts.Contains(part) ? state : old)] };
        try
        {
            WriteState(next.ToBytes());
        }
        catch (IOException) when (storage.GiveUp(Path.Combine(folder, SpareRoomFile)))
        {
            // Its room was kept for just that: a full logbook must not keep anybody from going back.
            WriteState(next.ToBytes());
        }
        catch (IOException e)
        {
            throw new UnreadableException(
                $"How far repair {Document.Id} came can't be written down, and nothing was written to the disk.",
                $"The logbook can't be written: {e.Message}",
                "Make room where the logbook is, and run the same command again.",
                e);
        }

        states = next;
    }

    /// <summary>Forgets the record, of which nothing stands on any disk.</summary>
    internal void Drop()
    {
        try
        {
            storage.DeleteFolder(folder);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // What stays behind is taken back with the next undo: nothing of it differs from the disk.
        }
    }

    private void WriteState(byte[] bytes)
    {
        var target = Path.Combine(folder, StateFile);
        var fresh = HostFile.FreshBeside(target);
        try
        {
            WriteDurably(storage, fresh, bytes);
        }
        catch (IOException)
        {
            storage.GiveUp(fresh);
            throw;
        }

        storage.Rename(fresh, target);
        storage.FlushFolder(folder);
    }

    /// <summary>The saved bytes of the parts asked for, checked; the others are passed over.</summary>
    /// <exception cref="DamagedRecordException">They are not what was recorded.</exception>
    internal IEnumerable<RecordRange> Ranges(Func<int, bool> wanted)
    {
        using var before = OpenSaved(BeforeFile);
        using var after = OpenSaved(AfterFile);
        ReusedBuffer old = new(), fresh = new();
        var at = 0L;
        for (var part = 0; part < Document.Disks.Count; part++)
        {
            foreach (var range in Document.Disks[part].Ranges)
            {
                if (wanted(part))
                {
                    var bytesBefore = Take(before, at, old.Take(range.Length), range.ChecksumBefore);
                    var bytesAfter = Take(after, at, fresh.Take(range.Length), range.ChecksumAfter);
                    yield return new RecordRange(part, range, bytesBefore, bytesAfter);
                }

                at += range.Length;
            }
        }
    }

    /// <summary>
    /// What stable storage gives back is compared with what was meant: a lost flush must show before the disk is touched.
    /// </summary>
    private void ReadBack(Checksum document)
    {
        if (Checksum.Of(ReadSmall(folder, DocumentFile)) != document)
            throw new DamagedRecordException(Document.Id, "record.json does not read back as it was written");
        foreach (var _ in Ranges(_ => true))
        {
            // taking each range checks it
        }
    }

    private StableReader OpenSaved(string name)
    {
        try
        {
            return new StableReader(Path.Combine(folder, name));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new DamagedRecordException(Document.Id, e.Message.TrimEnd('.'), inner: e);
        }
    }

    private ReadOnlyMemory<byte> Take(StableReader saved, long at, Memory<byte> bytes, Checksum expected)
    {
        try
        {
            saved.Read(at, bytes.Span);
        }
        catch (IOException e)
        {
            throw new DamagedRecordException(Document.Id, "its saved bytes end too early, or can't be read", inner: e);
        }

        return Checksum.Of(bytes.Span) == expected
            ? bytes
            : throw new DamagedRecordException(Document.Id, "its saved bytes have changed");
    }

    private static byte[] ReadSmall(string folder, string name)
    {
        try
        {
            return HostFile.Read(Path.Combine(folder, name), SmallFileLimit, followLink: false);
        }
        catch (IOException e)
        {
            throw new IOException($"{name}: {e.Message}", e);
        }
    }

    private static void WriteDurably(IStableStorage storage, string path, byte[] bytes)
    {
        using var file = storage.CreateFile(path);
        file.Append(bytes);
        file.Flush();
    }
}

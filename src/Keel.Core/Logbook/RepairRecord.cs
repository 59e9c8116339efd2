using System.Text.Json;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Logbook;

/// <summary>One repair in the logbook: a folder with record.json, the bytes before and after, and how far it came.</summary>
public sealed class RepairRecord
{
    private const string DocumentFile = "record.json", BeforeFile = "before.bin", AfterFile = "after.bin", StateFile = "state";
    private readonly string folder;

    private RepairRecord(string folder, RecordDocument document, RecordState state)
    {
        this.folder = folder;
        Document = document;
        State = state;
    }

    public RecordDocument Document { get; }

    public RecordState State { get; private set; }

    /// <summary>True where writing or undoing was cut off: the disk is between two states.</summary>
    public bool IsPending => State is RecordState.Writing or RecordState.Undoing;

    /// <summary>Writes a new record to stable storage; only its last act makes it count.</summary>
    /// <param name="parts">The bytes of every range, disk by disk; each is written and hashed as it comes.</param>
    /// <param name="describe">Makes the document from the ranges with their hashes.</param>
    internal static RepairRecord Create(string folder, IEnumerable<RecordedBytes> parts, Func<IReadOnlyList<(int Disk, RecordedRange Range)>, RecordDocument> describe)
    {
        Directory.CreateDirectory(folder);
        var ranges = new List<(int Disk, RecordedRange Range)>();
        using (var before = new FileStream(Path.Combine(folder, BeforeFile), FileMode.CreateNew))
        using (var after = new FileStream(Path.Combine(folder, AfterFile), FileMode.CreateNew))
        {
            foreach (var part in parts)
            {
                before.Write(part.Before);
                after.Write(part.After);
                ranges.Add((part.Disk, new RecordedRange(part.Start, part.Before.Length, RecordedBytes.Sha256(part.Before), RecordedBytes.Sha256(part.After))));
            }

            before.Flush(flushToDisk: true);
            after.Flush(flushToDisk: true);
        }

        var document = describe(ranges);
        WriteDurably(Path.Combine(folder, DocumentFile), JsonSerializer.SerializeToUtf8Bytes(document, RecordJson.Default.RecordDocument));
        LinuxNative.FlushFolder(folder);
        LinuxNative.FlushFolder(Path.GetDirectoryName(folder)!);
        var record = new RepairRecord(folder, document, RecordState.Writing);
        record.Become(RecordState.Writing);
        return record;
    }

    /// <summary>Reads a record; nothing where its folder was left before it counted.</summary>
    /// <exception cref="UnreadableException">It counts, and can't be read.</exception>
    internal static RepairRecord? TryRead(string folder)
    {
        var stateFile = Path.Combine(folder, StateFile);
        if (!File.Exists(stateFile)) return null;
        try
        {
            var document = JsonSerializer.Deserialize(File.ReadAllBytes(Path.Combine(folder, DocumentFile)), RecordJson.Default.RecordDocument);
            return document is not null && Enum.TryParse<RecordState>(File.ReadAllText(stateFile).Trim(), ignoreCase: true, out var state)
                ? new RepairRecord(folder, document, state)
                : throw Damaged(folder, "a part of it is empty", inner: null);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or JsonException)
        {
            throw Damaged(folder, e.Message, e);
        }
    }

    /// <summary>Sets how far the repair came, durably.</summary>
    internal void Become(RecordState state)
    {
        var target = Path.Combine(folder, StateFile);
        WriteDurably(target + ".new", System.Text.Encoding.ASCII.GetBytes(state.ToString()));
        File.Move(target + ".new", target, overwrite: true);
        LinuxNative.FlushFolder(folder);
        State = state;
    }

    /// <summary>The bytes of every range of every disk, before and after, checked against their SHA-256.</summary>
    /// <exception cref="UnreadableException">They are not what was recorded.</exception>
    internal IEnumerable<RecordedBytes> Ranges()
    {
        using var before = File.OpenRead(Path.Combine(folder, BeforeFile));
        using var after = File.OpenRead(Path.Combine(folder, AfterFile));
        for (var disk = 0; disk < Document.Disks.Count; disk++)
        {
            foreach (var range in Document.Disks[disk].Ranges)
            {
                yield return new RecordedBytes(disk, range.Start, Take(before, range.Length, range.Sha256Before), Take(after, range.Length, range.Sha256After));
            }
        }
    }

    /// <summary>One side of every range.</summary>
    /// <param name="check">Compare with the SHA-256 that was recorded; not needed again in the run that wrote or compared it.</param>
    internal IEnumerable<(int Disk, RecordedRange Range, byte[] Bytes)> Side(bool after, bool check)
    {
        using var saved = File.OpenRead(Path.Combine(folder, after ? AfterFile : BeforeFile));
        for (var disk = 0; disk < Document.Disks.Count; disk++)
        {
            foreach (var range in Document.Disks[disk].Ranges) yield return (disk, range, Take(saved, range.Length, check ? after ? range.Sha256After : range.Sha256Before : null));
        }
    }

    private byte[] Take(FileStream stream, int length, string? sha256)
    {
        var bytes = new byte[length];
        stream.ReadExactly(bytes);
        return sha256 is null || RecordedBytes.Sha256(bytes) == sha256 ? bytes : throw Damaged(folder, "its saved bytes have changed", inner: null);
    }

    private static UnreadableException Damaged(string folder, string why, Exception? inner) => new(
        $"The logbook's record in {folder} can't be used.",
        $"The reason: {why}.",
        "Bring the logbook folder back from a copy; without it this repair can't be undone.",
        inner);

    private static void WriteDurably(string path, byte[] bytes)
    {
        using var file = new FileStream(path, FileMode.Create);
        file.Write(bytes);
        file.Flush(flushToDisk: true);
    }
}

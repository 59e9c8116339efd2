using System.Globalization;
using Keel.Core.Errors;

namespace Keel.Core.Logbook;

/// <summary>The folder with the records of all repairs.</summary>
/// <param name="folder">The folder that it is kept in.</param>
/// <param name="storage">How it reaches stable storage; null for this computer's files.</param>
/// <param name="keyFolder">Where the key is kept that records are sealed with; null to seal none.</param>
public sealed class RepairLogbook(string folder, IStableStorage? storage = null, string? keyFolder = null)
{
    private const int SequenceDigits = 4;
    private static readonly string[] MemoryFormats = ["tmpfs", "ramfs", "overlay", "overlayfs", "rootfs"];
    private readonly IStableStorage storage = storage ?? new LinuxStorage();

    private string RecordsFolder => System.IO.Path.Combine(Path, "records");

    /// <summary>Where the records are.</summary>
    public string Path { get; } = System.IO.Path.GetFullPath(folder);

    /// <summary>$XDG_STATE_HOME/keel, or ~/.local/state/keel.</summary>
    public static string UsualFolder()
    {
        var state = Environment.GetEnvironmentVariable("XDG_STATE_HOME");
        if (string.IsNullOrEmpty(state))
            state = System.IO.Path.Combine(Environment.GetFolderPath(Environment.SpecialFolder.UserProfile), ".local", "state");
        return System.IO.Path.Combine(state, "keel");
    }

    /// <summary>
    /// Whether the folder is, or would be, kept in memory, and so gone after a restart: usual on rescue systems.
    /// </summary>
    public bool IsInMemory => OfDrive(drive => MemoryFormats.Contains(drive.DriveFormat)) ?? false;

    /// <summary>The room for records, in bytes; null where that can't be told.</summary>
    public long? FreeBytes => OfDrive(drive => drive.AvailableFreeSpace);

    private T? OfDrive<T>(Func<DriveInfo, T> ask)
        where T : struct
    {
        try
        {
            var there = Path;
            while (!Directory.Exists(there) && System.IO.Path.GetDirectoryName(there) is { } above) there = above;
            return ask(new DriveInfo(there));
        }
        catch (Exception e) when (e is IOException or ArgumentException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    /// <summary>The documents of one logbook, in bytes: more are not read, so that no logbook can eat the memory.</summary>
    private const long MostDocumentBytes = 64 * 1024 * 1024;

    /// <summary>All records, oldest first, and those that can't be used.</summary>
    /// <exception cref="UnreadableException">The folder can't be read.</exception>
    public LogbookContents Read()
    {
        if (!Directory.Exists(RecordsFolder)) return LogbookContents.Empty;
        var records = new List<RepairRecord>();
        var unusable = new List<UnusableRecord>();
        try
        {
            var read = 0L;
            foreach (var record in Directory.GetDirectories(RecordsFolder).OrderDescending(StringComparer.Ordinal))
            {
                try
                {
                    read += RepairRecord.DocumentBytes(record);
                    if (read > MostDocumentBytes)
                    {
                        var id = System.IO.Path.GetFileName(record);
                        throw new DamagedRecordException(id, "the logbook is too large to be read whole");
                    }

                    if (RepairRecord.TryRead(record, storage) is { } usable) records.Add(usable);
                }
                catch (DamagedRecordException e)
                {
                    unusable.Add(e.ToUnusable());
                }
            }
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                $"The logbook in {Path} can't be read.",
                $"The system says: {e.Message}",
                "Run keel as the user who made the repair, or name the logbook with --logbook.",
                e);
        }

        return new LogbookContents([.. records.OrderBy(record => record.Document.Sequence)], unusable);
    }

    /// <summary>
    /// Whether a record was written by keel on this computer, or from this stick; one from elsewhere may say anything, and is
    /// only taken where people say so.
    /// </summary>
    public bool IsOwn(RepairRecord record) =>
        keyFolder is not null && SealKey.Of(keyFolder, make: false) is { } key && record.IsSealedBy(key);

    /// <summary>All records that can be used, oldest first.</summary>
    public IReadOnlyList<RepairRecord> Records() => Read().Records;

    /// <summary>Writes a new record. What was made for it is taken away again where that fails.</summary>
    /// <param name="now">The time.</param>
    /// <param name="ranges">What the disk has where it will be written to.</param>
    /// <param name="describe">Makes the document from its id, its sequence, and the ranges with their checksums.</param>
    /// <exception cref="UnreadableException">It can't be saved.</exception>
    internal RepairRecord Save(
        DateTimeOffset now,
        IEnumerable<RecordRange> ranges,
        Func<string, long, IReadOnlyList<RecordRange>, RecordDocument> describe)
    {
        var folders = new LogbookFolders(storage);
        string? own = null;
        try
        {
            folders.Create(RecordsFolder);
            var sequence = NextSequence();
            while (!storage.CreateFolder(FolderOf(sequence, now))) sequence++;
            own = FolderOf(sequence, now);
            var id = System.IO.Path.GetFileName(own);
            var key = keyFolder is null ? null : SealKey.Of(keyFolder, make: true);
            return RepairRecord.Create(own, storage, key, ranges, saved => describe(id, sequence, saved));
        }
        catch (Exception e)
        {
            UndoTargets(own, folders);
            if (e is IOException or UnauthorizedAccessException or DamagedRecordException) throw NotSaved(e);
            throw;
        }
    }

    private string FolderOf(long sequence, DateTimeOffset now) => System.IO.Path.Combine(
        RecordsFolder,
        sequence.ToString(CultureInfo.InvariantCulture).PadLeft(SequenceDigits, '0')
            + now.UtcDateTime.ToString("-yyyyMMdd-HHmmss", CultureInfo.InvariantCulture));

    /// <summary>One more than any folder has, whatever its state.</summary>
    private long NextSequence() => 1 + Directory.GetDirectories(RecordsFolder)
        .Select(path => System.IO.Path.GetFileName(path).Split('-')[0])
        .Select(digits =>
            digits.Length < 18 && long.TryParse(digits, NumberStyles.None, CultureInfo.InvariantCulture, out var number)
                ? number
                : 0)
        .DefaultIfEmpty(0).Max();

    private void UndoTargets(string? own, LogbookFolders folders)
    {
        try
        {
            if (own is not null && Directory.Exists(own)) storage.DeleteFolder(own);
            folders.UndoTargets();
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // A folder that stays behind counts for nothing without its state.
        }
    }

    private UnreadableException NotSaved(Exception e) => new(
        "The way back could not be saved, and nothing was written to the disk.",
        $"The logbook in {Path} can't be written: {e.Message}",
        "Make room there, or name another folder with --logbook.",
        e);
}

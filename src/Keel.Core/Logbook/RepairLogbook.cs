using Keel.Core.Errors;
using Keel.Core.Layout;

namespace Keel.Core.Logbook;

/// <summary>The folder with the records of all repairs.</summary>
public sealed class RepairLogbook(string folder)
{
    private string RecordsFolder => System.IO.Path.Combine(folder, "records");

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

    /// <summary>Whether the folder is kept in memory, and so gone after a restart: usual on rescue systems.</summary>
    public bool IsInMemory
    {
        get
        {
            try
            {
                return new DriveInfo(Path).DriveFormat is "tmpfs" or "ramfs" or "overlay" or "overlayfs" or "rootfs";
            }
            catch (Exception e) when (e is IOException or ArgumentException or UnauthorizedAccessException)
            {
                return false;
            }
        }
    }

    /// <summary>All records, oldest first.</summary>
    public IReadOnlyList<RepairRecord> Records()
    {
        if (!Directory.Exists(RecordsFolder)) return [];
        try
        {
            return [.. Directory.GetDirectories(RecordsFolder).Order(StringComparer.Ordinal).Select(RepairRecord.TryRead).OfType<RepairRecord>()];
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException($"The logbook in {Path} can't be read.", $"The system says: {e.Message}.", "Run keel as the user who made the repair, or name the logbook with --logbook.", e);
        }
    }

    /// <summary>The records of one disk, oldest first. A disk is known by its path, or by identity and size together.</summary>
    public IReadOnlyList<RepairRecord> RecordsOf(string diskPath, DiskIdentity identity, long lengthBytes) =>
        [.. Records().Where(record => record.Document.Disks.Any(disk => Is(disk, diskPath, identity, lengthBytes)))];

    /// <summary>The repairs that wrote firmware variables in a folder, oldest first.</summary>
    public IReadOnlyList<RepairRecord> RecordsOf(string variablesFolder) => [.. Records().Where(record => record.Document.Variables?.Folder == variablesFolder)];

    /// <summary>Refuses to go on where an earlier write to the firmware's variables was cut off.</summary>
    public void RefuseIfPending(string variablesFolder) => RefuseIfPending(variablesFolder, RecordsOf(variablesFolder));

    /// <summary>Refuses to go on where an earlier write to the disk was cut off.</summary>
    public void RefuseIfPending(string diskPath, DiskIdentity identity, long lengthBytes) => RefuseIfPending(diskPath, RecordsOf(diskPath, identity, lengthBytes));

    private static void RefuseIfPending(string diskPath, IReadOnlyList<RepairRecord> records)
    {
        if (records.FirstOrDefault(record => record.IsPending) is not { } pending) return;
        throw new StoppedHalfwayException(
            $"An earlier repair of {diskPath} was cut off, and nothing more was written.",
            $"Record {pending.Document.Id} is still {(pending.State == RecordState.Writing ? "being written" : "being taken back")}.",
            $"Run 'keel undo {diskPath}' to go back, or 'keel logbook finish {diskPath}' to complete it.");
    }

    /// <summary>Holds the logbook alone until it is disposed of: two programs never write from the same logbook at once.</summary>
    /// <exception cref="RefusedException">Another program holds it.</exception>
    internal IDisposable Hold()
    {
        const int heldByAnother = 11;                           // EWOULDBLOCK
        try
        {
            Directory.CreateDirectory(RecordsFolder);
            return new FileStream(System.IO.Path.Combine(Path, "lock"), FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);
        }
        catch (IOException e) when (e.HResult == heldByAnother)
        {
            throw new RefusedException("Another keel is writing, and nothing was written by this one.", $"It holds the logbook in {Path}.", "Wait for it to end, and run the same command again.");
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException("The way back could not be saved, and nothing was written to the disk.", $"The logbook in {Path} can't be written: {e.Message}", "Make room there, or name another folder with --logbook.", e);
        }
    }

    /// <summary>The folder for a new record: named by its time, so that names sort by age.</summary>
    internal string NewRecordFolder(DateTimeOffset now)
    {
        Directory.CreateDirectory(RecordsFolder);
        var name = now.UtcDateTime.ToString("yyyyMMdd-HHmmss");
        for (var number = 1; ; number++)
        {
            var candidate = System.IO.Path.Combine(RecordsFolder, $"{name}-{number:000}");
            if (!Directory.Exists(candidate)) return candidate;
        }
    }

    private static bool Is(RecordedDisk disk, string path, DiskIdentity identity, long lengthBytes) =>
        disk.LengthBytes == lengthBytes
        && (disk.Path == path || (!identity.IsNone && (disk.IdentityBefore == identity.ToString() || disk.IdentityAfter == identity.ToString())));
}

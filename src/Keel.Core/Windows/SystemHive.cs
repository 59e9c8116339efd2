using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>The SYSTEM hive of an installation, or what is wrong with it.</summary>
/// <param name="Reason">What is wrong; empty where it is sound.</param>
/// <param name="Root">Its root key, with the logs applied; null where it can't be read.</param>
/// <param name="ControlSet">The control set in use, as in "ControlSet001"; null where there is none.</param>
/// <param name="Mended">The whole hive with its logs applied, where it was torn.</param>
public sealed record SystemHive(SystemHiveCondition Condition, string Reason, HiveKey? Root, string? ControlSet, DateTimeOffset? Written, byte[]? Mended)
{
    private const int LimitBytes = 256 * 1024 * 1024;

    private IReadOnlyList<WindowsService>? services;

    /// <summary>The disk's error, where it did not give the hive: then nothing is known of it.</summary>
    public ReadFailedException? DiskError { get; private init; }
    private static readonly string[] LogEndings = [".LOG1", ".LOG2", ".LOG"];

    /// <summary>Reads a hive; of a sound one only what is asked for.</summary>
    /// <param name="path">Its path on the volume.</param>
    public static SystemHive Read(IVolume files, string path)
    {
        try
        {
            if (files.Find(path) is not { IsFolder: false } file) return Bad(SystemHiveCondition.Missing, $"{path} is not there");
            if (file.SizeBytes < 2 * HiveHeader.Size) return Bad(SystemHiveCondition.Damaged, $"{path} has {file.SizeBytes} bytes; a hive has at least {2 * HiveHeader.Size}");
            var blocks = new CachedBlocks(files.OpenFile(path));
            var header = HiveHeader.TryRead(blocks.ReadBytes(0, HiveHeader.Size));
            if (header is null) return Bad(SystemHiveCondition.Damaged, $"{path} does not begin with the mark of a hive");
            if (!header.IsClean) return WithLogs(files, path, header);
            return HiveHeader.Size + (long)header.BinsBytes > file.SizeBytes
                ? Bad(SystemHiveCondition.Damaged, $"{path} has {file.SizeBytes} bytes of the {HiveHeader.Size + (long)header.BinsBytes} that its header speaks of")
                : Judge(Hive.Open(blocks), path, mended: null);
        }
        catch (ReadFailedException e)
        {
            return Bad(SystemHiveCondition.Damaged, $"{path}: {e.What}") with { DiskError = e };
        }
        catch (KeelException e)
        {
            return Bad(SystemHiveCondition.Damaged, $"{path}: {e.Why}");
        }
    }

    /// <summary>The drivers and services of the control set in use.</summary>
    public IReadOnlyList<WindowsService> Services() => services ??= ControlSet is null ? [] : [.. Root?.Find($@"{ControlSet}\Services")?.Subkeys().Select(WindowsService.Of) ?? []];

    /// <summary>The control sets that are in the hive.</summary>
    public IReadOnlyList<string> ControlSets() => [.. Root?.Subkeys().Select(key => key.Name).Where(name => name.StartsWith("ControlSet0", StringComparison.OrdinalIgnoreCase)).Order(StringComparer.OrdinalIgnoreCase).ToList() ?? []];

    private static SystemHive Bad(SystemHiveCondition condition, string reason) => new(condition, reason, null, null, null, null);

    private static SystemHive WithLogs(IVolume files, string path, HiveHeader header)
    {
        var logs = LogEndings.Where(ending => files.FileExists(path + ending)).Select(ending => files.ReadFile(path + ending, LimitBytes));
        if (HiveLog.Apply(files.ReadFile(path, LimitBytes), logs) is not { } applied)
            return Bad(SystemHiveCondition.Damaged, header.ChecksumMatches ? $"{path} was being written (sequence {header.PrimarySequence} and {header.SecondarySequence}), and no log has the rest" : $"the checksum in the base block of {path} is wrong, and no log has it right");
        var judged = Judge(Hive.Open(applied), path, applied);
        return judged.Condition == SystemHiveCondition.Sound
            ? judged with { Condition = SystemHiveCondition.Torn, Reason = $"{path} was being written (sequence {header.PrimarySequence} and {header.SecondarySequence}); its log has the rest" }
            : judged;
    }

    private static SystemHive Judge(Hive hive, string path, byte[]? mended)
    {
        var root = hive.Root;
        var written = TimeOf(hive.Header.LastWritten);
        if (root.Find("Select")?.Value("Current")?.AsNumber() is not { } current)
            return Bad(SystemHiveCondition.Damaged, hive.Damage.Count > 0 ? $"{path}: {hive.Damage[0]}" : $"{path} does not say which control set is in use");
        var set = $"ControlSet{current:000}";
        var services = root.Find($@"{set}\Services");
        if (hive.Damage.Count > 0) return Bad(SystemHiveCondition.Damaged, $"{path}: {hive.Damage[0]}");
        if (services is null) return new SystemHive(SystemHiveCondition.NoControlSet, $"{path} says that {set} is in use, which is not in it", root, null, written, mended);
        if (services.Subkeys().Take(1).Count() == 0) return Bad(SystemHiveCondition.Damaged, $"{path}: {set} lists no drivers");
        return new SystemHive(SystemHiveCondition.Sound, "", root, set, written, mended);
    }

    private static DateTimeOffset? TimeOf(long fileTime) => fileTime > 0 && fileTime < DateTimeOffset.MaxValue.ToFileTime() ? DateTimeOffset.FromFileTime(fileTime).ToUniversalTime() : null;
}

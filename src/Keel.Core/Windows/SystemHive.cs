using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>The SYSTEM hive of an installation, or what is wrong with it.</summary>
/// <param name="Condition">Whether it could be read.</param>
/// <param name="Seen">What is wrong; null where it is sound.</param>
/// <param name="Root">Its root key, with the logs applied; null where it can't be read.</param>
/// <param name="ControlSet">The control set in use, as in "ControlSet001"; null where there is none.</param>
/// <param name="Written">When it was written last; null where that can't be told.</param>
/// <param name="Mended">The whole hive with its logs applied, where it was torn.</param>
public sealed record SystemHive(
    SystemHiveCondition Condition,
    Remark? Seen,
    HiveKey? Root,
    string? ControlSet,
    DateTimeOffset? Written,
    byte[]? Mended)
{
    private const int LimitBytes = 256 * 1024 * 1024;

    /// <summary>Hives of up to this size are read whole: longer ones would take more time than a look may.</summary>
    private const int WholeBytes = 64 * 1024 * 1024;

    private IReadOnlyList<WindowsService>? services;

    /// <summary>The disk's error, where it did not give the hive: then nothing is known of it.</summary>
    public ReadFailedException? DiskError { get; private init; }

    /// <summary>What is to be said of its logs, where it is sound all the same; null where there is nothing.</summary>
    public Remark? OfLogs { get; private init; }

    /// <summary>Reads a hive: its frame as a whole, of its keys only what is asked for.</summary>
    /// <param name="files">The files of the volume.</param>
    /// <param name="path">Its path on the volume.</param>
    public static SystemHive Read(IVolume files, string path)
    {
        var where = Fact.Path.Is(path);
        try
        {
            if (files.Find(path) is not { IsFolder: false } file)
                return Bad(SystemHiveCondition.Missing, Remark.Of("hive.missing", where));
            if (file.SizeBytes < 2 * HiveHeader.Size)
            {
                return Bad(
                    SystemHiveCondition.Damaged,
                    Remark.Of(
                        "hive.too-short",
                        where,
                        Fact.SizeBytes.Is(file.SizeBytes),
                        Fact.NeededBytes.Is(2 * HiveHeader.Size)));
            }

            var blocks = new CachedBlocks(files.OpenFile(path));
            var header = HiveHeader.TryRead(blocks.ReadBytes(0, HiveHeader.Size));
            if (header is null) return Bad(SystemHiveCondition.Damaged, Remark.Of("hive.no-mark", where));
            if (!header.IsClean) return WithLogs(files, path, header);
            return HiveHeader.Size + (long)header.BinsBytes > file.SizeBytes
                ? Bad(
                    SystemHiveCondition.Damaged,
                    Remark.Of(
                        "hive.cut-short",
                        where,
                        Fact.SizeBytes.Is(file.SizeBytes),
                        Fact.NeededBytes.Is(HiveHeader.Size + (long)header.BinsBytes)))
                : Judge(Hive.Open(blocks), path, mended: null);
        }
        catch (ReadFailedException e)
        {
            return Bad(SystemHiveCondition.Damaged, Remark.Of("hive.said", where, Fact.Said.Is(e.What))) with { DiskError = e };
        }
        catch (KeelException e)
        {
            return Bad(SystemHiveCondition.Damaged, Remark.Of("hive.said", where, Fact.Said.Is(e.Why)));
        }
    }

    /// <summary>The drivers and services of the control set in use.</summary>
    public IReadOnlyList<WindowsService> Services() =>
        services ??= ControlSet is null
            ? []
            : [.. Root?.Find($@"{ControlSet}\Services")?.Subkeys().Select(WindowsService.Of) ?? []];

    public IReadOnlyList<string> ControlSets() =>
        [.. Root?.Subkeys().Select(key =>
            key.Name).Where(name =>
                name.StartsWith(
                    "ControlSet0",
                    StringComparison.OrdinalIgnoreCase)).Order(StringComparer.OrdinalIgnoreCase).ToList()
            ?? []];

    private static SystemHive Bad(SystemHiveCondition condition, Remark reason) => new(condition, reason, null, null, null, null);

    private static SystemHive WithLogs(IVolume files, string path, HiveHeader header)
    {
        var logs = HiveLogFiles.Read(files, path, LimitBytes);
        var bytes = files.ReadFile(path, LimitBytes);
        if (HiveLog.Apply(bytes, logs) is not { } applied) return WithoutLogs(bytes, path, header);

        var judged = Judge(Hive.Open(applied), path, applied);
        if (judged.Condition != SystemHiveCondition.Sound) return judged;
        if (IsWhole(bytes) && Judge(Hive.Open(bytes), path, mended: null) is { Condition: SystemHiveCondition.Sound } own)
            return own with { OfLogs = Remark.Of("hive.log-pending", [Fact.Path.Is(path), .. SequencesOf(header)]) };
        return judged with
        {
            Condition = SystemHiveCondition.Torn,
            Seen = Remark.Of("hive.torn", [Fact.Path.Is(path), .. SequencesOf(header)])
        };
    }

    /// <summary>Whether everything of it can be read as it is, without its logs.</summary>
    private static bool IsWhole(byte[] bytes)
    {
        var hive = Hive.Open(bytes);
        if (!hive.Header.ChecksumMatches || hive.FirstBroken() is not null) return false;
        try
        {
            _ = hive.ReadTree();
        }
        catch (HiveDamagedException)
        {
            return false;
        }

        return hive.Damage.Count == 0;
    }

    private static KnownFact[] SequencesOf(HiveHeader header) =>
    [
        Fact.Sequence.Is(header.PrimarySequence),
        Fact.OtherSequence.Is(header.SecondarySequence)
    ];

    /// <summary>
    /// Numbers that differ alone are usual where a log was emptied: what counts is whether everything is there, as for a store.
    /// </summary>
    private static SystemHive WithoutLogs(byte[] bytes, string path, HiveHeader header)
    {
        if (!header.ChecksumMatches)
            return Bad(SystemHiveCondition.Damaged, Remark.Of("hive.checksum-without-log", Fact.Path.Is(path)));
        var hive = Hive.Open(bytes);
        _ = hive.ReadTree();
        return hive.Damage.Count == 0
            ? Judge(hive, path, mended: null) with
            {
                OfLogs = Remark.Of("hive.no-log", [Fact.Path.Is(path), .. SequencesOf(header)])
            }
            : Bad(
                SystemHiveCondition.Damaged,
                Remark.Of("hive.torn-without-log", [Fact.Path.Is(path), .. SequencesOf(header)]));
    }

    private static SystemHive Judge(Hive hive, string path, byte[]? mended)
    {
        var root = hive.Root;
        var where = Fact.Path.Is(path);
        var written = TimeOf(hive.Header.LastWritten);
        if (root.Find("Select")?.Value("Current")?.AsNumber() is not { } current)
        {
            return Bad(
                SystemHiveCondition.Damaged,
                hive.Damage.Count > 0
                    ? Remark.Of("hive.said", where, Fact.Said.Is(hive.Damage[0]))
                    : Remark.Of("hive.no-current", where));
        }

        if (hive.LengthBytes <= WholeBytes && hive.FirstBroken() is { } broken)
            return Bad(SystemHiveCondition.Damaged, Remark.Of("hive.said", where, Fact.Said.Is(broken)));
        var set = $"ControlSet{current:000}";
        var services = root.Find($@"{set}\Services");
        if (hive.Damage.Count > 0)
            return Bad(SystemHiveCondition.Damaged, Remark.Of("hive.said", where, Fact.Said.Is(hive.Damage[0])));
        if (services is null)
        {
            return new SystemHive(
                SystemHiveCondition.NoControlSet,
                Remark.Of("hive.no-control-set", where, Fact.ControlSet.Is(set)),
                root,
                null,
                written,
                mended);
        }

        if (services.Subkeys().Take(1).Count() == 0)
            return Bad(SystemHiveCondition.Damaged, Remark.Of("hive.no-drivers", where, Fact.ControlSet.Is(set)));
        return new SystemHive(SystemHiveCondition.Sound, null, root, set, written, mended);
    }

    private static DateTimeOffset? TimeOf(long fileTime) =>
        fileTime > 0 && fileTime < DateTimeOffset.MaxValue.ToFileTime()
            ? DateTimeOffset.FromFileTime(fileTime).ToUniversalTime()
            : null;
}

using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending;

/// <summary>Brings a hive back from the youngest sound copy: a kept one, or one in a snapshot of the volume.</summary>
internal static class HiveReturn
{
    /// <summary>The first sound one of the copies that this Windows keeps of a hive.</summary>
    /// <param name="windows">The Windows that is started.</param>
    /// <param name="name">The name of the hive, as in SYSTEM.</param>
    /// <param name="read">Gives its bytes where it is sound, by its path; else null.</param>
    public static HiveCopy? KeptAt(StartedWindows windows, string name, Func<string, byte[]?> read)
    {
        IEnumerable<string> places = windows.IsNt5
            ? [.. RestorePoints.Hives(windows.Files, name), $@"{windows.Folder}\repair\{name.ToLowerInvariant()}"]
            : [$@"{windows.System32}\config\RegBack\{name}"];
        foreach (var path in places)
        {
            if (windows.Files.FileExists(path) && read(path) is { } bytes)
                return new HiveCopy(bytes, TimeOf(bytes), VolumeExtensions.FolderOf(path));
        }

        return null;
    }

    /// <summary>The kept copy, or the one of a snapshot where that is younger, or where there is no other.</summary>
    /// <param name="windows">The Windows that is started.</param>
    /// <param name="path">The path of the hive.</param>
    /// <param name="kept">A copy that Windows keeps.</param>
    /// <param name="read">Gives its bytes where it is sound, from the files of a snapshot; else null.</param>
    /// <param name="problem">Why snapshots could not be looked into.</param>
    public static HiveCopy? Best(
        StartedWindows windows,
        string path,
        HiveCopy? kept,
        Func<IVolume, byte[]?> read,
        out KeelException? problem)
    {
        var older = OlderStates.Youngest(windows.Volume, read, out problem);
        if (older is not { } state) return kept;
        return kept?.Taken is { } taken && taken >= state.Made ? kept : new HiveCopy(state.Found, state.Made, Folder: null);
    }

    /// <summary>Sets the damaged hive aside with its logs, and puts the copy in its place.</summary>
    /// <param name="windows">The Windows that is started.</param>
    /// <param name="path">The path of the hive.</param>
    /// <param name="copy">What takes its place.</param>
    /// <param name="finding">What is mended by it.</param>
    /// <param name="lost">The line that says what is lost.</param>
    public static Attempt Apply(StartedWindows windows, string path, HiveCopy copy, Finding finding, Remark lost)
    {
        var until = WrittenWhen(windows.Files, path);
        var lines = new List<StepDetail>();
        var folder = VolumeExtensions.FolderOf(path);
        var usual = VolumeExtensions.NameOf(path);
        var name = windows.Files.List(folder)
            .FirstOrDefault(file => file.Name.Equals(usual, StringComparison.OrdinalIgnoreCase))?.Name ?? usual;
        windows.Volume.Edit(files =>
        {
            lines.AddRange(StoreRebuild.SetAside(files, path).Select(line => new StepDetail(line)));
            files.WriteFile($@"{folder}\{name}", copy.Bytes);
        });
        KnownFact[] from = copy.Taken is { } time ? [Fact.Written.Is(time)] : [];
        lines.Add(Remark.Of(
            "line.hive-copy",
            [Fact.Path.Is(path), Fact.Volume.Is(windows.Volume.Ref), Fact.SizeBytes.Is(copy.Bytes.Length), .. from]));
        lines.Add(StepDetail.Lost(Loss.Settings, lost.With(until is { } last ? [.. from, Fact.LastWritten.Is(last)] : from)));
        return Attempt.Done(new Step(finding.Link, finding.Id, Summary(windows, usual, copy, from), lines));
    }

    /// <summary>The snapshots might have it, and can't be looked into.</summary>
    public static Attempt Unread(KeelException problem) =>
        Attempt.Refused("snapshots-unread", Fact.Said.Is(problem.Why), Fact.Todo.Is(problem.Todo));

    private static Remark Summary(StartedWindows windows, string name, HiveCopy copy, KnownFact[] from)
    {
        KnownFact[] facts = [Fact.Names.Is([name.ToUpperInvariant()]), .. from];
        return copy.Folder is null ? Remark.Of("step.hive-from-snapshot", facts)
            : windows.IsNt5 ? Remark.Of("step.hive-from-copy", [.. facts, Fact.Path.Is(copy.Folder)])
            : Remark.Of("step.hive-from-backup", facts);
    }

    private static DateTimeOffset? TimeOf(byte[] hive) =>
        HiveHeader.TryRead(hive) is { LastWritten: > 0 } header && header.LastWritten < DateTimeOffset.MaxValue.ToFileTime()
            ? DateTimeOffset.FromFileTime(header.LastWritten).ToUniversalTime()
            : null;

    private static DateTimeOffset? WrittenWhen(IVolume files, string path)
    {
        try
        {
            return files.WrittenAt(path);
        }
        catch (KeelException)
        {
            return null;
        }
    }
}

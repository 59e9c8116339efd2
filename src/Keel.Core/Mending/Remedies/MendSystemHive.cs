using System.Globalization;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Brings the SYSTEM hive back: from its logs, else from the automatic backup copy; or names a control set that is there.
/// </summary>
internal sealed class MendSystemHive : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        SystemHiveCheck.Missing,
        SystemHiveCheck.Damaged,
        SystemHiveCheck.Nt5Damaged,
        SystemHiveCheck.Torn,
        SystemHiveCheck.NoControlSet
    ];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (StartedWindows.Of(machine).Windows is not { } windows || machine.SystemHive is not { } hive)
            return Attempt.Refused("windows-not-reached");
        if (finding.Kind == SystemHiveCheck.NoControlSet) return NameAnother(windows, hive, finding);
        return hive.Mended is { } whole ? ApplyLogs(windows, whole, finding) : FromBackup(windows, finding);
    }

    private static Attempt ApplyLogs(StartedWindows windows, byte[] whole, Finding finding)
    {
        windows.Volume.Edit(files => files.WriteFile(windows.SystemHivePath, whole));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.apply-hive-log"),
            Remark.Of(
                "line.hive-whole",
                Fact.Path.Is(windows.SystemHivePath),
                Fact.Volume.Is(windows.Volume.Ref),
                Fact.SizeBytes.Is(whole.Length))));
    }

    private static Attempt FromBackup(StartedWindows windows, Finding finding)
    {
        var backup = BackupOf(windows);
        var copy = SystemHive.Read(windows.Files, backup);
        if (windows.Files.Find(backup) is { SizeBytes: 0 }) return Attempt.Refused("hive-backup-empty", Fact.Path.Is(backup));
        if (copy.Condition is not (SystemHiveCondition.Sound or SystemHiveCondition.Torn))
            return Attempt.Refused("hive-backup-unusable", Fact.Reason.Is(copy.Seen!));
        var bytes = copy.Mended ?? windows.Files.ReadFile(backup, int.MaxValue);
        var lost = WrittenWhen(windows.Files, windows.SystemHivePath);
        var lines = new List<Remark>();
        var usual = VolumeExtensions.NameOf(windows.SystemHivePath);
        var name = windows.Files
            .List(VolumeExtensions.FolderOf(windows.SystemHivePath))
            .FirstOrDefault(file => file.Name.Equals(usual, StringComparison.OrdinalIgnoreCase))?.Name ?? usual;
        windows.Volume.Edit(files =>
        {
            lines.AddRange(StoreRebuild.SetAside(files, windows.SystemHivePath));
            files.WriteFile($@"{VolumeExtensions.FolderOf(windows.SystemHivePath)}\{name}", bytes);
        });
        KnownFact[] from = copy.Written is { } time ? [Fact.Written.Is(time)] : [];
        lines.Add(
            Remark.Of(
                "line.hive-copy",
                [
                    Fact.Path.Is(windows.SystemHivePath),
                    Fact.Volume.Is(windows.Volume.Ref),
                    Fact.SizeBytes.Is(bytes.Length),
                    .. from
                ]));
        lines.Add(Remark.Of("line.hive-lost", lost is { } until ? [.. from, Fact.LastWritten.Is(until)] : from));
        var summary = windows.IsNt5
            ? Remark.Of("step.hive-from-copy", [.. from, Fact.Path.Is(VolumeExtensions.FolderOf(backup))])
            : Remark.Of("step.hive-from-backup", from);
        return Attempt.Done(new Step(finding.Link, finding.Id, summary, lines));
    }

    /// <summary>
    /// The youngest copy that Windows keeps and that can be read; where none can, the one that it is known by.
    /// </summary>
    private static string BackupOf(StartedWindows windows)
    {
        var usual = $@"{windows.System32}\config\RegBack\SYSTEM";
        if (!windows.IsNt5) return usual;
        var setup = $@"{windows.Folder}\repair\system";
        return RestorePoints.SystemHives(windows.Files)
            .Append(setup)
            .FirstOrDefault(path => SystemHive.Read(windows.Files, path).Condition
                is SystemHiveCondition.Sound or SystemHiveCondition.Torn) ?? setup;
    }

    private static Attempt NameAnother(StartedWindows windows, SystemHive hive, Finding finding)
    {
        var select = hive.Root!.Find("Select")!;
        var sets = hive.ControlSets();
        var good = select.Value("LastKnownGood")?.AsNumber() is { } last
            && sets.Contains($"ControlSet{last:000}", StringComparer.OrdinalIgnoreCase)
            ? $"ControlSet{last:000}"
            : sets.Count > 0 ? sets[0] : null;
        if (good is null
            || !uint.TryParse(good["ControlSet".Length..], NumberStyles.None, CultureInfo.InvariantCulture, out var number))
        {
            return Attempt.Refused("hive-no-control-set");
        }

        var lines = new List<Remark>();
        windows.Volume.Edit(files =>
        {
            foreach (var name in (string[])["Current", "Default"])
            {
                if (select.Value(name)?.AsNumber() == number || select.PlaceOfNumber(name) is not { } place) continue;
                files.Patch(windows.SystemHivePath, place, BitConverter.GetBytes(number));
                lines.Add(Remark.Of(
                    "line.select-becomes",
                    Fact.Setting.Is(name),
                    Fact.NumberBefore.Is(select.Value(name)?.AsNumber() ?? 0),
                    Fact.NumberAfter.Is(number)));
            }
        });
        return Attempt.Done(
            new Step(finding.Link, finding.Id, Remark.Of("step.use-control-set", Fact.ControlSet.Is(good)), lines));
    }

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

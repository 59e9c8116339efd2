using System.Globalization;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
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

    public bool MayBeUnread => true;

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
        var path = windows.SystemHivePath;
        var backup = HiveReturn.KeptAt(windows, "SYSTEM", candidate => Usable(windows.Files, candidate));
        var copy = HiveReturn.Best(windows, path, backup, files => Usable(files, path), out var problem);
        if (copy is not null) return HiveReturn.Apply(windows, path, copy, finding, Remark.Of("line.hive-lost"));
        if (problem is not null) return HiveReturn.Unread(problem);
        var usual = $@"{windows.System32}\config\RegBack\SYSTEM";
        return windows.Files.Find(usual) is { SizeBytes: 0 }
            ? Attempt.Refused("hive-backup-empty", Fact.Path.Is(usual))
            : Attempt.Refused("hive-backup-unusable", Fact.Reason.Is(SystemHive.Read(windows.Files, usual).Seen!));
    }

    /// <summary>The bytes of a hive that Windows could start with; null where it could not.</summary>
    private static byte[]? Usable(IVolume files, string path) =>
        SystemHive.Read(files, path).Condition is SystemHiveCondition.Sound or SystemHiveCondition.Torn
            ? HiveCopies.TryRead(files, path)
            : null;

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
}

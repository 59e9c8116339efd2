using System.Globalization;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Errors;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>Brings the SYSTEM hive back: from its logs, else from the automatic backup copy; or names a control set that is there.</summary>
internal sealed class MendSystemHive : IRemedy
{
    private const string BringOne = "Bring the SYSTEM hive from a restore point or a backup of this machine; one of another machine does not fit.";

    public IReadOnlyList<FindingKind> Mends => [SystemHiveCheck.Missing, SystemHiveCheck.Damaged, SystemHiveCheck.Torn, SystemHiveCheck.NoControlSet];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (StartedWindows.Of(machine).Windows is not { } windows || machine.SystemHive is not { } hive) return Attempt.Refused("The Windows that is started is not reached.", "Mend what comes before it.");
        if (finding.Kind == SystemHiveCheck.NoControlSet) return NameAnother(windows, hive, finding);
        return hive.Mended is { } whole ? ApplyLogs(windows, whole, finding) : FromBackup(windows, finding);
    }

    private static Attempt ApplyLogs(StartedWindows windows, byte[] whole, Finding finding)
    {
        windows.Volume.Edit(files => files.WriteFile(windows.SystemHivePath, whole));
        return Attempt.Done(new Step(finding.Link, finding.Id, "Write into the SYSTEM hive what its log still has.", [$"{windows.SystemHivePath} on {windows.Volume}: {whole.Length} bytes; nothing is lost"]));
    }

    private static Attempt FromBackup(StartedWindows windows, Finding finding)
    {
        var backup = $@"{windows.System32}\config\RegBack\SYSTEM";
        var copy = SystemHive.Read(windows.Files, backup);
        if (windows.Files.Find(backup) is { SizeBytes: 0 }) return Attempt.Refused($"{backup} is empty: since Windows 10 1803 the automatic backup is off unless it was switched on.", BringOne);
        if (copy.Condition is not (SystemHiveCondition.Sound or SystemHiveCondition.Torn)) return Attempt.Refused($"Its logs do not have the rest, and the automatic backup copy can't be used: {copy.Reason}.", BringOne);
        var bytes = copy.Mended ?? windows.Files.ReadFile(backup, int.MaxValue);
        var lost = WrittenWhen(windows.Files, windows.SystemHivePath);
        var lines = new List<string>();
        windows.Volume.Edit(files =>
        {
            lines.AddRange(StoreRebuild.SetAside(files, windows.SystemHivePath));
            files.WriteFile(windows.SystemHivePath, bytes);
        });
        lines.Add($"{windows.SystemHivePath} on {windows.Volume}: the copy of {When(copy.Written)}, {bytes.Length} bytes");
        lines.Add($"LOST: settings, drivers and services changed between {When(copy.Written)} and {(lost is null ? "the damage" : When(lost))}");
        return Attempt.Done(new Step(finding.Link, finding.Id, $"Bring the SYSTEM hive back from the automatic backup copy of {When(copy.Written)}.", lines));
    }

    private static Attempt NameAnother(StartedWindows windows, SystemHive hive, Finding finding)
    {
        var select = hive.Root!.Find("Select")!;
        var sets = hive.ControlSets();
        var good = select.Value("LastKnownGood")?.AsNumber() is { } last && sets.Contains($"ControlSet{last:000}", StringComparer.OrdinalIgnoreCase) ? $"ControlSet{last:000}" : sets.Count > 0 ? sets[0] : null;
        if (good is null || !uint.TryParse(good["ControlSet".Length..], NumberStyles.None, CultureInfo.InvariantCulture, out var number)) return Attempt.Refused("The hive has no control set at all.", BringOne);
        var lines = new List<string>();
        windows.Volume.Edit(files =>
        {
            foreach (var name in (string[])["Current", "Default"])
            {
                if (select.Value(name)?.AsNumber() == number || select.PlaceOfNumber(name) is not { } place) continue;
                files.Patch(windows.SystemHivePath, place, BitConverter.GetBytes(number));
                lines.Add($"Select, {name}: {select.Value(name)?.AsNumber()} becomes {number}");
            }
        });
        return Attempt.Done(new Step(finding.Link, finding.Id, $"Let the SYSTEM hive use {good}, which is in it.", lines));
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

    private static string When(DateTimeOffset? time) => time is { } known ? known.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture) : "an unknown time";
}

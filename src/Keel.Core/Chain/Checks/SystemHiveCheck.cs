using Keel.Core.Blocks;
using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks;

/// <summary>The SYSTEM hive of the Windows that is started: it loads, and the control set that it names is in it.</summary>
internal sealed class SystemHiveCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "system-hive-missing",
        Link.SystemHive,
        Severity.Error,
        "The SYSTEM hive is missing.",
        StartupScreens.RegistryCorrupt,
        StartupScreens.CantLoadHive,
        StartupScreens.AutomaticRepair);

    public static readonly FindingKind Damaged = new(
        "system-hive-damaged",
        Link.SystemHive,
        Severity.Error,
        "The SYSTEM hive is damaged.",
        StartupScreens.RegistryCorrupt,
        StartupScreens.CantLoadHive,
        StartupScreens.RegistryStop,
        StartupScreens.BadSystemConfig,
        StartupScreens.AutomaticRepair);

    public static readonly FindingKind Nt5Damaged = new(
        "nt5-hive-damaged",
        Link.SystemHive,
        Severity.Error,
        "The SYSTEM hive of an NT 5 Windows is missing or damaged.",
        StartupScreens.Nt5HiveMissing,
        StartupScreens.CantLoadHive,
        StartupScreens.BadSystemConfig);

    public static readonly FindingKind Torn = new(
        "system-hive-torn",
        Link.SystemHive,
        Severity.Warning,
        "The last write to the SYSTEM hive was cut off; its log has the rest.",
        StartupScreens.RegistryCorrupt,
        StartupScreens.CantLoadHive,
        StartupScreens.RegistryStop);

    public static readonly FindingKind OfLogs = new(
        "system-hive-log",
        Link.SystemHive,
        Severity.Note,
        "The SYSTEM hive was not closed: Windows deals with that at the next start.");

    public static readonly FindingKind NoControlSet = new(
        "control-set-missing",
        Link.SystemHive,
        Severity.Error,
        "The control set that the SYSTEM hive names is not in it.",
        StartupScreens.RegistryCorrupt,
        StartupScreens.BadSystemConfig,
        StartupScreens.ConfigFailed);

    public static readonly FindingKind SoftwareMissing = new(
        "software-hive-missing",
        Link.SystemHive,
        Severity.Error,
        "The SOFTWARE hive of Windows is missing.",
        StartupScreens.CantLoadHive,
        StartupScreens.RegistryStop);

    public static readonly FindingKind SoftwareDamaged = new(
        "software-hive-damaged",
        Link.SystemHive,
        Severity.Error,
        "The SOFTWARE hive of Windows can't be read.",
        StartupScreens.CantLoadHive,
        StartupScreens.RegistryStop);

    public Link Link => Link.SystemHive;

    public IReadOnlyList<FindingKind> Kinds =>
    [
        Nt5Damaged, Missing, Damaged, Torn, OfLogs, NoControlSet, SoftwareMissing, SoftwareDamaged
    ];

    public LinkReport Check(Machine machine)
    {
        var (windows, why) = StartedWindows.Of(machine);
        if (windows is null) return LinkReport.Unreached(why);
        var hive = machine.SystemHive!;
        if (hive.DiskError is { } error) throw error;
        var volume = Fact.Volume.Is(windows.Volume.Ref);
        return hive.Condition switch
        {
            SystemHiveCondition.Missing or SystemHiveCondition.Damaged when windows.IsNt5
                => LinkReport.Wrong(Nt5Damaged, hive.Seen!.With(volume)),
            SystemHiveCondition.Missing => LinkReport.Wrong(Missing, hive.Seen!.With(volume)),
            SystemHiveCondition.Damaged => LinkReport.Wrong(Damaged, hive.Seen!.With(volume)),
            SystemHiveCondition.Torn => LinkReport.Wrong(Torn, hive.Seen!.With(volume)),
            SystemHiveCondition.NoControlSet
                => LinkReport.Wrong(NoControlSet, hive.Seen!.With(volume, Fact.ControlSets.Is(hive.ControlSets()))),
            _ when SoftwareOf(windows) is { } software => new LinkReport(software.Seen, [software]),
            _ when hive.OfLogs is { } logs => LinkReport.Wrong(OfLogs, logs.With(volume)),
            _
                => LinkReport.Sound(
                    "system-hive.sound",
                    [Fact.Path.Is(windows.SystemHivePath), volume, Fact.ControlSet.Is(hive.ControlSet!), .. WrittenOf(hive)])
        };
    }

    /// <summary>Windows loads its SOFTWARE hive at the start too; of a sound one only the head is read.</summary>
    private static Finding? SoftwareOf(StartedWindows windows)
    {
        var path = $@"{windows.System32}\config\SOFTWARE";
        KnownFact[] where = [Fact.Path.Is(path), Fact.Volume.Is(windows.Volume.Ref)];
        if (windows.Files.Find(path) is not { IsFolder: false }) return SoftwareMissing.At(Remark.Of("hive.missing", where));
        return HiveHealth.OfHead(windows.Files, path, where) is { } problem ? SoftwareDamaged.At(problem) : null;
    }

    private static IEnumerable<KnownFact> WrittenOf(SystemHive hive) => hive.Written is { } time ? [Fact.Written.Is(time)] : [];
}

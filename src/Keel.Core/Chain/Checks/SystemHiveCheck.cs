using Keel.Core.Facts;
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

    public static readonly FindingKind Torn = new(
        "system-hive-torn",
        Link.SystemHive,
        Severity.Warning,
        "The last write to the SYSTEM hive was cut off; its log has the rest.",
        StartupScreens.RegistryCorrupt,
        StartupScreens.CantLoadHive,
        StartupScreens.RegistryStop);

    public static readonly FindingKind NoControlSet = new(
        "control-set-missing",
        Link.SystemHive,
        Severity.Error,
        "The control set that the SYSTEM hive names is not in it.",
        StartupScreens.BadSystemConfig,
        StartupScreens.ConfigFailed,
        StartupScreens.RegistryCorrupt);

    public Link Link => Link.SystemHive;

    public LinkReport Check(Machine machine)
    {
        var (windows, why) = StartedWindows.Of(machine);
        if (windows is null) return LinkReport.Unreached(why);
        var hive = machine.SystemHive!;
        if (hive.DiskError is { } error) throw error;
        var volume = Fact.Volume.Is(windows.Volume.Ref);
        return hive.Condition switch
        {
            SystemHiveCondition.Missing => LinkReport.Wrong(Missing, hive.Seen!.With(volume)),
            SystemHiveCondition.Damaged => LinkReport.Wrong(Damaged, hive.Seen!.With(volume)),
            SystemHiveCondition.Torn => LinkReport.Wrong(Torn, hive.Seen!.With(volume)),
            SystemHiveCondition.NoControlSet
                => LinkReport.Wrong(NoControlSet, hive.Seen!.With(volume, Fact.ControlSets.Is(hive.ControlSets()))),
            _
                => LinkReport.Sound(
                    "system-hive.sound",
                    [Fact.Path.Is(windows.SystemHivePath), volume, Fact.ControlSet.Is(hive.ControlSet!), .. WrittenOf(hive)])
        };
    }

    private static IEnumerable<KnownFact> WrittenOf(SystemHive hive) => hive.Written is { } time ? [Fact.Written.Is(time)] : [];
}

using System.Globalization;
using Keel.Core.EventLogs;
using Keel.Core.Facts;
using Keel.Core.Volumes;

namespace Keel.Core.History;

/// <summary>The events that tell of starts, of what stopped them, and of what changed before; by provider and number.</summary>
internal static class EventMeanings
{
    private const string EventLog = "EventLog", KernelGeneral = "Microsoft-Windows-Kernel-General";
    private const string ServiceManager = "Service Control Manager", Updates = "Microsoft-Windows-WindowsUpdateClient";
    private const string Devices = "Microsoft-Windows-UserPnp";

    /// <summary>Drivers of controllers that say when a disk had to be reset.</summary>
    private static readonly string[] Controllers =
    [
        "storahci", "stornvme", "msahci", "atapi", "iaStor", "iaStorA", "iaStorAC", "iaStorAVC", "iaStorV", "iaStorVD", "nvme",
        "LSI_SAS", "LSI_SAS2i", "amd_sata"
    ];

    private static readonly Dictionary<(string Provider, int Id), EventMeaning> Known = All()
        .ToDictionary(one => (one.Provider.ToUpperInvariant(), one.Id), one => one.Meaning);

    /// <summary>What an event means; null where it is not about starts.</summary>
    public static EventMeaning? Of(string provider, int id) => Known.GetValueOrDefault((provider.ToUpperInvariant(), id));

    private static IEnumerable<(string Provider, int Id, EventMeaning Meaning)> All() =>
        [.. Starts(), .. Stops(), .. Disks(), .. Changes()];

    private static IEnumerable<(string Provider, int Id, EventMeaning Meaning)> Starts()
    {
        yield return (EventLog, 6005, Plain(HistoryKind.GoodStart, "history.services-ran"));
        yield return (EventLog, 6006, Plain(HistoryKind.ShutDown, "history.shut-down"));
        yield return (EventLog, 6009, Plain(HistoryKind.Start, "history.started"));
        yield return (EventLog, 6008, Plain(HistoryKind.WentDark, "history.unexpected-end") with { IsNotedLater = true });
        yield return (KernelGeneral, 12, Plain(HistoryKind.Start, "history.started"));
        yield return (KernelGeneral, 13, Plain(HistoryKind.ShutDown, "history.shut-down"));
        yield return (
            "Microsoft-Windows-Kernel-Boot",
            20,
            new EventMeaning(HistoryKind.Other, "trace.boot-status", BootStatus) { IsNotedLater = true });
        yield return ("Microsoft-Windows-Kernel-Boot", 29, Plain(HistoryKind.Other, "history.fast-start-failed"));
        yield return ("Microsoft-Windows-Eventlog", 104, Plain(HistoryKind.Other, "history.log-cleared"));
    }

    private static IEnumerable<(string Provider, int Id, EventMeaning Meaning)> Stops()
    {
        var told = new EventMeaning(HistoryKind.Stop, "history.stop-noted", StopTold) { IsNotedLater = true };
        yield return ("Microsoft-Windows-WER-SystemErrorReporting", 1001, told);
        yield return ("BugCheck", 1001, told);
        yield return ("Save Dump", 1001, told);
        yield return (
            "Microsoft-Windows-Kernel-Power",
            41,
            new EventMeaning(HistoryKind.WentDark, "history.power-lost", PowerLost) { IsNotedLater = true });
        yield return (ServiceManager, 7000, NotStarted("history.service-failed"));
        yield return (ServiceManager, 7001, NotStarted("history.service-waits"));
        yield return (
            ServiceManager,
            7026,
            new EventMeaning(HistoryKind.NotStarted, "history.drivers-not-loaded", logged => [Fact.Names.Is(NamesIn(logged))]));
    }

    private static IEnumerable<(string Provider, int Id, EventMeaning Meaning)> Disks()
    {
        yield return ("disk", 7, Disk("history.bad-block"));
        yield return ("disk", 11, Disk("history.controller-error"));
        yield return ("disk", 51, Disk("history.paging-error"));
        yield return ("disk", 52, Disk("history.disk-predicts-failure"));
        yield return ("disk", 153, Disk("history.disk-retried"));
        yield return ("disk", 157, Disk("history.disk-removed"));
        foreach (var controller in Controllers) yield return (controller, 129, Disk("history.controller-reset"));
        foreach (var ntfs in (string[])["Ntfs", "Microsoft-Windows-Ntfs"])
        {
            yield return (ntfs, 55, FileSystem("history.file-system-damaged"));
            yield return (ntfs, 98, new EventMeaning(HistoryKind.FileSystem, "history.file-system-check", NeedsCheck));
            yield return (ntfs, 130, FileSystem("history.file-system-repaired"));
        }

        yield return ("volmgr", 46, Plain(HistoryKind.Other, "history.no-dump-possible"));
        yield return ("volmgr", 161, Plain(HistoryKind.Other, "history.dump-failed"));
    }

    private static IEnumerable<(string Provider, int Id, EventMeaning Meaning)> Changes()
    {
        yield return (ServiceManager, 7045, new EventMeaning(HistoryKind.Service, "history.service-new", NewService));
        yield return (Devices, 20001, new EventMeaning(HistoryKind.Driver, "history.driver-new", NewDriver));
        yield return (Devices, 20003, new EventMeaning(HistoryKind.Service, "history.service-new", NewService));
        yield return (Updates, 19, Update(HistoryKind.Update, "history.update-installed"));
        yield return (Updates, 20, Update(HistoryKind.UpdateTrouble, "history.update-failed"));
        yield return (Updates, 43, Update(HistoryKind.UpdateTrouble, "history.update-begun"));
    }

    private static EventMeaning Plain(HistoryKind kind, string sentence) => new(kind, sentence, _ => []);

    private static EventMeaning Disk(string sentence) =>
        new(HistoryKind.Disk, sentence, logged => Named(Fact.Device, logged.Value("DeviceName") ?? logged.Value(0)));

    private static EventMeaning FileSystem(string sentence) =>
        new(
            HistoryKind.FileSystem,
            sentence,
            logged => Named(Fact.Device, logged.Value("DriveName") ?? logged.Value("VolumeName") ?? logged.Value(0)));

    private static EventMeaning NotStarted(string sentence) =>
        new(HistoryKind.NotStarted, sentence, logged => Named(Fact.Driver, logged.Value(0)));

    private static EventMeaning Update(HistoryKind kind, string sentence) => new(
        kind,
        sentence,
        logged => [
            .. Named(Fact.Title, logged.Value("updateTitle") ?? logged.Value(0)),
            .. Named(Fact.Code, kind == HistoryKind.UpdateTrouble ? logged.Value("errorCode") : null)
        ]);

    private static KnownFact[] Named(FactKey<string> key, string? text) =>
        string.IsNullOrWhiteSpace(text) ? [] : [key.Is(text.Trim())];

    private static KnownFact[]? BootStatus(LoggedEvent logged) =>
        logged.Value("LastBootGood") is { } started && logged.Value("LastShutdownGood") is { } shutDown
            ? [Fact.IsStarted.Is(IsTrue(started)), Fact.IsShutDown.Is(IsTrue(shutDown))]
            : null;

    private static bool IsTrue(string text) => text is "true" or "1";

    /// <summary>The text begins with the code, its parameters in brackets: "0x0000007b (0xffff…, …)".</summary>
    private static KnownFact[]? StopTold(LoggedEvent logged)
    {
        if (StopCode.AtStartOf(logged.Value(0)) is not { } code) return null;
        var path = logged.Value(1);
        var isDump = path?.EndsWith(".dmp", StringComparison.OrdinalIgnoreCase) == true;
        return [Fact.Stop.Is(StopCode.Text(code)), .. Named(Fact.Path, isDump ? path : null)];
    }

    private static KnownFact[] PowerLost(LoggedEvent logged) =>
        uint.TryParse(logged.Value("BugcheckCode"), NumberStyles.None, CultureInfo.InvariantCulture, out var code) && code != 0
            ? [Fact.Stop.Is(StopCode.Text(code))]
            : [];

    /// <summary>State 0 is a healthy volume.</summary>
    private static KnownFact[]? NeedsCheck(LoggedEvent logged) =>
        logged.Value("CorruptionActionState") is { } state && state != "0"
            ? Named(Fact.Device, logged.Value("DriveName") ?? logged.Value("DeviceName"))
            : null;

    private static KnownFact[]? NewService(LoggedEvent logged) =>
        logged.Value("ServiceName") is { Length: > 0 } name
            ? [
                Fact.Driver.Is(name),
                .. Named(Fact.Path, logged.Value("ImagePath") ?? logged.Value("DriverFileName")),
                .. Named(Fact.Start, logged.Value("StartType"))
            ]
            : null;

    private static KnownFact[]? NewDriver(LoggedEvent logged) =>
        logged.Value("DriverName") is { Length: > 0 } name
            ? [
                Fact.Driver.Is(NameOf(name)),
                .. Named(Fact.Device, logged.Value("DeviceInstanceID")),
                .. Named(Fact.Version, logged.Value("DriverVersion"))
            ]
            : null;

    /// <summary>The name of a driver package without its folder: "oem7.inf".</summary>
    private static string NameOf(string path) => VolumeExtensions.NameOf(path.Replace('/', '\\'));

    /// <summary>The drivers that an event names, line by line.</summary>
    private static IReadOnlyList<string> NamesIn(LoggedEvent logged) =>
    [
        .. logged.Values
            .SelectMany(value => value.Text.Split(['\r', '\n', ' ', '\t'], StringSplitOptions.RemoveEmptyEntries))
            .Where(name => name.Any(char.IsLetter))
    ];
}

using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Chain.Checks;

/// <summary>The firmware's entry for the Windows boot manager, and its start order.</summary>
internal sealed class FirmwareEntryCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "firmware-entry-missing",
        Link.FirmwareEntry,
        Severity.Warning,
        "The firmware has no entry for the Windows boot manager of this disk.",
        StartupScreens.NoBootDevice,
        StartupScreens.NotFound);

    public static readonly FindingKind OrderWrong = new(
        "firmware-order-wrong",
        Link.FirmwareEntry,
        Severity.Warning,
        "The firmware's entry for Windows is switched off, or not in its start order.",
        StartupScreens.NoBootDevice,
        StartupScreens.NotFound);

    public static readonly FindingKind Stale = new(
        "firmware-entries-stale",
        Link.FirmwareEntry,
        Severity.Warning,
        "The firmware has entries whose disk or file is gone.",
        StartupScreens.NoBootDevice);

    internal static readonly FindingKind OtherFirst = new(
        "firmware-other-first",
        Link.FirmwareEntry,
        Severity.Note,
        "The firmware starts something else before Windows.");

    public Link Link => Link.FirmwareEntry;

    public IReadOnlyList<FindingKind> Kinds => [Missing, OrderWrong, Stale, OtherFirst];

    public LinkReport Check(Machine machine)
    {
        if (DiskLayoutCheck.IsTableFirst(machine)) return LinkReport.Unreached("link.hidden");
        if (machine.Medium.Volume is not null) return LinkReport.Unreached("medium.nothing-behind");
        var entries = StartEntry.Of(machine);
        var findings = new List<Finding>();
        var windows = entries.Where(entry => entry.IsWindowsOf(machine)).ToList();
        if (machine.SystemVolume is { } system)
        {
            if (windows.Count == 0)
                findings.Add(Missing.At(Fact.EntryCount.Is(entries.Count), Fact.Volume.Is(system.Ref)));
            else if (!windows.Exists(IsStarted))
                findings.Add(OrderWrong.At([.. NameOf(windows[0]), Fact.IsInOrder.Is(windows[0].Place is not null)]));
        }

        if (StaleOf(machine, entries) is { Count: > 0 } stale)
        {
            findings.Add(
                Stale.At(Fact.FirmwareEntries.Is([.. stale.Select(entry => Remark.Of("firmware-entry.name", NameOf(entry)))])));
        }

        if (windows.Find(IsStarted) is { Place: > 1 } ours
            && entries.FirstOrDefault(entry =>
                entry.Place == 1
                    && entry.Option is { IsActive: true }) is { Target: StartTarget.Here or StartTarget.NotJudged } first)
        {
            findings.Add(
                OtherFirst.At([.. NameOf(first), Fact.OtherFirmwareEntry.Is(ours.Name), Fact.OtherTitle.Is(ours.Title)]));
        }

        return LinkReport.Of(findings, Remark.Of("firmware-entry.sound", windows.Count > 0 ? NameOf(windows[0]) : []));
    }

    /// <summary>
    /// Entries that lead nowhere, apart from the one for this machine's boot manager, whose file may only be missing.
    /// </summary>
    internal static IReadOnlyList<StartEntry> StaleOf(Machine machine, IReadOnlyList<StartEntry> entries) =>
        [.. entries.Where(entry => entry.Target is StartTarget.Gone or StartTarget.FileGone && !entry.IsWindowsOf(machine))];

    private static IEnumerable<KnownFact> NameOf(StartEntry entry) =>
    [
        Fact.FirmwareEntry.Is(entry.Name),
        Fact.Title.Is(entry.Title)
    ];

    private static bool IsStarted(StartEntry entry) => entry is { Place: not null, Option.IsActive: true };
}

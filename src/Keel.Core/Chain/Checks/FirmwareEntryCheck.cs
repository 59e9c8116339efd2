namespace Keel.Core.Chain.Checks;

/// <summary>The firmware's entry for the Windows boot manager, and its start order.</summary>
internal sealed class FirmwareEntryCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new("firmware-entry-missing", Link.FirmwareEntry, Severity.Warning, "The firmware has no entry for the Windows boot manager of this disk.", Screens.NoBootDevice, Screens.NotFound);
    public static readonly FindingKind OrderWrong = new("firmware-order-wrong", Link.FirmwareEntry, Severity.Warning, "The firmware's entry for Windows is switched off, or not in its start order.", Screens.NoBootDevice, Screens.NotFound);
    public static readonly FindingKind Stale = new("firmware-entries-stale", Link.FirmwareEntry, Severity.Warning, "The firmware has entries whose disk or file is gone.", Screens.NoBootDevice);
    private static readonly FindingKind OtherFirst = new("firmware-other-first", Link.FirmwareEntry, Severity.Note, "The firmware starts something else before Windows.");

    public Link Link => Link.FirmwareEntry;

    public LinkReport Check(Machine machine)
    {
        var entries = StartEntry.Of(machine);
        var findings = new List<Finding>();
        var windows = entries.Where(entry => entry.IsWindowsOf(machine)).ToList();
        if (machine.SystemVolume is { } system)
        {
            if (windows.Count == 0) findings.Add(Missing.At($"none of its {entries.Count} entries starts the boot manager on {system}"));
            else if (!windows.Exists(IsStarted)) findings.Add(OrderWrong.At($"{windows[0].Name} \"{windows[0].Title}\" is {(windows[0].Place is null ? "not in the start order" : "switched off")}"));
        }

        if (StaleOf(machine, entries) is { Count: > 0 } stale)
            findings.Add(Stale.At($"{string.Join("; ", stale.Take(4).Select(entry => $"{entry.Name} \"{entry.Title}\""))}{(stale.Count > 4 ? $" and {stale.Count - 4} more" : "")}: the disk or the file is gone"));
        if (windows.Find(IsStarted) is { Place: > 1 } ours && entries.FirstOrDefault(entry => entry.Place == 1 && entry.Option is { IsActive: true }) is { Target: StartTarget.Here or StartTarget.NotJudged } first)
            findings.Add(OtherFirst.At($"{first.Name} \"{first.Title}\" comes before {ours.Name} \"{ours.Title}\""));
        return LinkReport.Of(findings.Count > 0 ? findings[0].Evidence : $"{windows.FirstOrDefault()?.Name} \"{windows.FirstOrDefault()?.Title}\" comes first", findings);
    }

    /// <summary>Entries that lead nowhere, apart from the one for this machine's boot manager, whose file may only be missing.</summary>
    internal static IReadOnlyList<StartEntry> StaleOf(Machine machine, IReadOnlyList<StartEntry> entries) =>
        [.. entries.Where(entry => entry.Target is StartTarget.Gone or StartTarget.FileGone && !entry.IsWindowsOf(machine))];

    private static bool IsStarted(StartEntry entry) => entry is { Place: not null, Option.IsActive: true };
}

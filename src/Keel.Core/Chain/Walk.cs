using Keel.Core.Chain.Checks;
using Keel.Core.Chain.Checks.Session;
using Keel.Core.Machines;

namespace Keel.Core.Chain;

/// <summary>One walk along a machine's chain: how each link stands, and what is wrong.</summary>
public sealed record Walk(FirmwareKind Firmware, IReadOnlyList<LinkResult> Links, IReadOnlyList<Finding> Findings)
{
    private static readonly ILinkCheck[] BiosChain =
    [
        new DiskLayoutCheck(), new MbrCodeCheck(), new ActiveMarkCheck(), new BootSectorCheck(), new ManagerFileCheck(),
        new StoreCheck(), new ManagerEntryCheck(), new WindowsEntryCheck(), new WindowsVolumeCheck(), new LoaderFileCheck(),
        new OlderSystemCheck(), new SystemHiveCheck(), new KernelFilesCheck(), new StartDriversCheck(), new SessionCheck()
    ];

    private static readonly ILinkCheck[] Nt5Chain =
    [
        new DiskLayoutCheck(), new MbrCodeCheck(), new ActiveMarkCheck(), new BootSectorCheck(), new WindowsVolumeCheck(),
        new Nt5LoaderCheck(), new DetectFileCheck(), new BootListCheck(), new BootLineCheck(), new SystemHiveCheck(),
        new KernelFilesCheck(), new StartDriversCheck(), new SessionCheck()
    ];

    private static readonly ILinkCheck[] UefiChain =
    [
        new FirmwareEntryCheck(), new DiskLayoutCheck(), new SystemVolumeCheck(), new ManagerFileCheck(), new FallbackFileCheck(),
        new StoreCheck(), new ManagerEntryCheck(), new WindowsEntryCheck(), new WindowsVolumeCheck(), new LoaderFileCheck(),
        new SystemHiveCheck(), new KernelFilesCheck(), new StartDriversCheck(), new SessionCheck()
    ];

    /// <summary>Every check of every chain; one that stands in several comes as often.</summary>
    internal static IEnumerable<ILinkCheck> AllChecks => [.. UefiChain, .. BiosChain, .. Nt5Chain];

    /// <summary>The first link at which the machine stops; null where it does not.</summary>
    public Link? StopsAt =>
        Links.Where(link => link.Status == LinkStatus.Broken).Select(link => (Link?)link.Link).FirstOrDefault();

    /// <summary>Whether the machine starts, as far as the walk can tell.</summary>
    public Verdict Verdict => StopsAt is not null ? Verdict.Broken
        : Links.Any(link => link.Status == LinkStatus.Doubtful || (link.Status == LinkStatus.Unreached && !IsMedium))
            || Findings.Any(finding => finding.Kind == ReadErrorFindings.Kind)
        ? Verdict.Doubtful
        : Verdict.Sound;

    /// <summary>Behind the fallback file of a medium nothing is to be walked.</summary>
    private bool IsMedium => Findings.Any(finding => finding.Kind == Checks.ManagerFileCheck.Medium);

    /// <summary>What the screen would show: the id of a startup error; null where the start goes through.</summary>
    public string? ShownCode
    {
        get
        {
            if (StopsAt is not { } link) return null;
            var screens = Findings
                .Where(finding => finding.Link == link && finding.Kind.Severity == Severity.Error)
                .SelectMany(finding => finding.Kind.Shows)
                .ToList();
            if (Firmware != FirmwareKind.Uefi || screens.Count == 0) return screens.FirstOrDefault();

            // What boot code would print is seen by nobody here: firmware passes over what it can't start, to the next entry.
            return screens.Find(screen => !StartupScreens.IsOfBootCode(screen))
                ?? (link < Link.Store ? StartupScreens.NoBootDevice : screens[0]);
        }
    }

    /// <summary>Walks the chain of a machine, as its overlays show it.</summary>
    /// <exception cref="Errors.UnreadableException">The library that reads its volumes is not installed.</exception>
    public static Walk Of(Machine machine)
    {
        machine.RequireLibraries();
        foreach (var disk in machine.NamedDisks) disk.BeginBudget();
        machine.Inside.FindNamed();
        foreach (var disk in machine.Disks) disk.BeginBudget();
        var links = new List<LinkResult>();
        var findings = new List<Finding>();
        Link? hidden = null;
        foreach (var check in machine.Firmware == FirmwareKind.Uefi ? UefiChain
            : machine.Nt5Evidence is null ? BiosChain : Nt5Chain)
        {
            if (check is FirmwareEntryCheck && machine.Variables is null) continue;
            if (check is OlderSystemCheck && !OlderSystemCheck.IsOffered(machine)) continue;

            var report = hidden is { } first && check.Link >= first
                ? LinkReport.Unreached("link.hidden")
                : Judgement.Of(check, machine);
            hidden ??= report.Findings.Select(finding => finding.Kind.HidesFrom).FirstOrDefault(link => link is not null);
            links.Add(new LinkResult(check.Link, StatusOf(report), report.Detail));
            findings.AddRange(report.Findings);
        }

        // What the disk would not give comes first of all, whichever link met it.
        findings.InsertRange(0, ReadErrorFindings.Of(machine));
        return new Walk(machine.Firmware, links, findings);
    }

    private static LinkStatus StatusOf(LinkReport report)
    {
        if (!report.Judged) return LinkStatus.Unreached;
        return report.Findings.Select(finding => finding.Kind.Severity).DefaultIfEmpty(Severity.Note).Max() switch
        {
            Severity.Error => LinkStatus.Broken,
            Severity.Warning => LinkStatus.Doubtful,
            _ => LinkStatus.Sound
        };
    }
}

using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Chain.Checks;

/// <summary>The boot manager's own entry, and whether what it prefers exists.</summary>
internal sealed class ManagerEntryCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "manager-entry-missing",
        Link.ManagerEntry,
        Severity.Error,
        "The store has no entry for the boot manager.",
        StartupScreens.NotFoundElement,
        StartupScreens.StoreIncomplete,
        StartupScreens.NameNotFound);

    public static readonly FindingKind PreferredDangling = new(
        "preferred-dangling",
        Link.ManagerEntry,
        Severity.Error,
        "The preferred entry is not in the store.",
        StartupScreens.NameNotFound,
        StartupScreens.NotFoundElement);

    public static readonly FindingKind StartsNothing = new(
        "preferred-starts-nothing",
        Link.ManagerEntry,
        Severity.Error,
        "The preferred entry starts no system.",
        StartupScreens.StoreIncomplete,
        StartupScreens.FileInvalid);

    public static readonly FindingKind StartsOther = new(
        "preferred-other-system",
        Link.ManagerEntry,
        Severity.Note,
        "The preferred entry starts another system; the first Windows of the menu is walked.");

    public static readonly FindingKind StartsRecovery = new(
        "preferred-recovery",
        Link.ManagerEntry,
        Severity.Warning,
        "The preferred entry starts the recovery environment each time, and not Windows.");

    public static readonly FindingKind Redirected = new(
        "store-redirected",
        Link.ManagerEntry,
        Severity.Warning,
        "The boot manager's entry sends the boot manager to another store.",
        StartupScreens.NoSuchFile)
    {
        Beyond = "Where that is not wanted, take the settings out: keel store change DISK manager store-volume- store-file-"
    };

    public static readonly FindingKind StaleVolume = new(
        "manager-stale-volume",
        Link.ManagerEntry,
        Severity.Warning,
        "The boot manager's entry names a volume that is not here.",
        StartupScreens.NoSuchDevice);

    public static readonly FindingKind OrderDangling = new(
        "order-dangling",
        Link.ManagerEntry,
        Severity.Warning,
        "The menu lists an entry that is not in the store.",
        StartupScreens.NameNotFound);

    public static readonly FindingKind OnceDangling = new(
        "once-only-dangling",
        Link.ManagerEntry,
        Severity.Warning,
        "The next start alone is to go to an entry that is not in the store.");

    public static readonly FindingKind NoWait = new(
        "wait-zero-no-menu",
        Link.ManagerEntry,
        Severity.Warning,
        "The menu has several entries and does not wait for an answer.");

    public Link Link => Link.ManagerEntry;

    public IReadOnlyList<FindingKind> Kinds =>
    [
        Missing, PreferredDangling, StartsNothing, StartsOther, StartsRecovery, Redirected, StaleVolume,
        OrderDangling, OnceDangling, NoWait
    ];

    public LinkReport Check(Machine machine)
    {
        if (machine.Store is not { Condition: StoreCondition.Loaded, Store: { Entries.Count: > 0 } store })
            return LinkReport.Unreached("store.unusable");
        var findings = FindingsOf(store).ToList();
        if (store.Manager is not { } manager) return new LinkReport(findings[0].Seen, findings);
        if (manager.Device(Element.ProgramVolume) is { IsPartition: true } device && machine.VolumeOf(device) is null)
            findings.Add(StaleVolume.At(Fact.Device.Is($"{device}")));
        var listed = manager.References(Element.MenuOrder).Count;
        var preferred = store.Entry(store.Preferred ?? default)?.Title;
        return LinkReport.Of(
            findings,
            Remark.Of("manager-entry.sound", Fact.EntryCount.Is(listed), Fact.Title.Is(preferred ?? "none")));
    }

    /// <summary>What the store says of itself, without the disks.</summary>
    internal static IEnumerable<Finding> FindingsOf(BootStore store)
    {
        if (store.Manager is not { } manager)
        {
            yield return Missing.At(Fact.Entry.Is($"{EntryId.Manager}"));
            yield break;
        }

        if (manager.Reference(Element.Preferred) is { } preferred && store.Entry(preferred) is null)
            yield return PreferredDangling.At(Fact.Entry.Is($"{preferred}"));
        if (store.Preferred is { } chosen && store.Entry(chosen) is { } entry && entry.Type != EntryType.Windows)
        {
            var kind = entry.StartsOther ? StartsOther : StartsNothing;
            yield return kind.At(Fact.Title.Is(entry.Name), Fact.Type.Is(entry.Type.Name));
        }

        if (store is { Preferred: { } first, WindowsEntries.Count: > 0 } && store.Entry(first) is { IsRecovery: true } recovery)
            yield return StartsRecovery.At(Fact.Title.Is(recovery.Name));
        if (manager.Text(Element.StoreFile) is { Length: > 0 } elsewhere) yield return Redirected.At(Fact.Path.Is(elsewhere));
        var order = manager.References(Element.MenuOrder);
        foreach (var (kind, ids) in (((FindingKind, IEnumerable<EntryId>)[])
            [(OrderDangling, order), (OnceDangling, manager.References(Element.OnceOnly))]))
        {
            if (ids.Where(id => store.Entry(id) is null).ToList() is { Count: > 0 } gone)
                yield return kind.At(Fact.Entries.Is([.. gone.Select(id => $"{id}")]));
        }

        if (manager.Number(Element.MenuSeconds) == 0 && order.Count(id => store.Entry(id) is not null) > 1)
            yield return NoWait.At(Fact.EntryCount.Is(order.Count));
    }
}

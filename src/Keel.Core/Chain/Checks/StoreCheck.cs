using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Chain.Checks;

/// <summary>The store's file: there, whole, loadable, and with entries.</summary>
internal sealed class StoreCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "store-missing",
        Link.Store,
        Severity.Error,
        "The boot configuration store is missing.",
        StartupScreens.NoSuchFile,
        StartupScreens.NameNotFound);

    public static readonly FindingKind Folder = new(
        "store-folder",
        Link.Store,
        Severity.Error,
        "A folder stands where the boot configuration store should.",
        StartupScreens.IsDirectory,
        StartupScreens.NoSuchFile);

    public static readonly FindingKind Truncated = new(
        "store-truncated",
        Link.Store,
        Severity.Error,
        "The boot configuration store is cut short.",
        StartupScreens.RegistryCorrupt,
        StartupScreens.NameNotFound,
        StartupScreens.NoSuchFile);

    public static readonly FindingKind Damaged = new(
        "store-cells-damaged",
        Link.Store,
        Severity.Error,
        "The inside of the boot configuration store is damaged.",
        StartupScreens.RegistryCorrupt,
        StartupScreens.NameNotFound,
        StartupScreens.StoreIncomplete);

    public static readonly FindingKind BadChecksum = new(
        "store-bad-checksum",
        Link.Store,
        Severity.Error,
        "The checksum of the boot configuration store is wrong.",
        StartupScreens.RegistryCorrupt,
        StartupScreens.NameNotFound);

    public static readonly FindingKind Torn = new(
        "store-torn",
        Link.Store,
        Severity.Error,
        "The last write to the boot configuration store was cut off; its log has the rest.",
        StartupScreens.RegistryCorrupt,
        StartupScreens.NameNotFound);

    public static readonly FindingKind NoEntries = new(
        "store-empty",
        Link.Store,
        Severity.Error,
        "The boot configuration store has no entries.",
        StartupScreens.NameNotFound,
        StartupScreens.StoreIncomplete,
        StartupScreens.FileInvalid);

    public Link Link => Link.Store;

    public IReadOnlyList<FindingKind> Kinds => [Missing, Folder, Truncated, Damaged, BadChecksum, Torn, NoEntries];

    public LinkReport Check(Machine machine)
    {
        var state = machine.Store;
        if (state.DiskError is { } error) throw error;
        return state.Condition switch
        {
            StoreCondition.NoVolume => LinkReport.Unreached(state.Seen!),
            StoreCondition.Missing when machine.Medium.Volume is not null
                => LinkReport.Unreached("medium.nothing-behind"),
            StoreCondition.Missing => LinkReport.Wrong(Missing, state.Seen!),
            StoreCondition.Folder => LinkReport.Wrong(Folder, state.Seen!),
            StoreCondition.Truncated => LinkReport.Wrong(Truncated, state.Seen!),
            StoreCondition.Unreadable => LinkReport.Wrong(Damaged, state.Seen!),
            StoreCondition.BadChecksum => LinkReport.Wrong(BadChecksum, state.Seen!),
            StoreCondition.Torn => LinkReport.Wrong(Torn, state.Seen!),
            _ when state.Store!.Entries.Count == 0 => LinkReport.Wrong(NoEntries, Where(machine, state)),
            _ => LinkReport.Sound("store.sound", [.. Where(machine, state), Fact.EntryCount.Is(state.Store.Entries.Count)])
        };
    }

    private static KnownFact[] Where(
        Machine machine,
        StoreState state) => [Fact.Path.Is(state.Path), Fact.Volume.Is(machine.SystemVolume!.Ref)];
}

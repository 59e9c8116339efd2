using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Chain;

/// <summary>What is wrong with a store, apart from the rest of the chain.</summary>
public static class StoreHealth
{
    /// <summary>The entry is not the one that is started, so the chain does not depend on it.</summary>
    internal static readonly FindingKind TargetGone = new(
        "entry-target-missing",
        Link.WindowsEntry,
        Severity.Note,
        "An entry points at something that is not here.");

    internal static readonly FindingKind NobodyLists = new(
        "entry-listed-nowhere",
        Link.ManagerEntry,
        Severity.Note,
        "An entry that starts a system is in no menu.");

    internal static readonly FindingKind WrongType = new(
        "setting-wrong-type",
        Link.WindowsEntry,
        Severity.Note,
        "A setting is stored in another form than its kind has.");

    /// <summary>All that it finds.</summary>
    public static IReadOnlyList<FindingKind> Kinds => [TargetGone, NobodyLists, WrongType];

    /// <summary>
    /// A store inside a disk: what the links from the store on say, and what is odd about the entries that are not started.
    /// </summary>
    public static IReadOnlyList<Finding> Of(Machine machine) =>
    [
        .. Walk
            .Of(machine).Findings
            .Where(finding => finding.Link is >= Link.Store and <= Link.LoaderFile),
        .. machine.Store is { Condition: StoreCondition.Loaded, Store: { } store } ? Oddities(store, machine) : []
    ];

    private static IEnumerable<Finding> Oddities(BootStore store, Machine machine)
    {
        var started = store.Started?.Id;
        var listed =
            store.Entries
                .SelectMany(entry =>
                    entry.Elements
                        .Where(element => Setting.FormatOf(element) == SettingFormat.EntryList)
                        .SelectMany(entry.References))
                .ToHashSet();
        foreach (var entry in store.Entries.Where(entry => entry.Type.IsApplication && entry.Id != started))
        {
            var name = entry.Title ?? entry.Type.Name;
            if (entry.Device(Element.ProgramVolume) is { IsPartition: true } device
                && entry.Text(Element.ProgramFile) is { } file)
            {
                if (machine.VolumeOf(device) is not { } volume)
                    yield return TargetGone.At(Fact.Title.Is(name), Fact.Device.Is($"{device}"));
                else if (volume.Files is { } files && !files.FileExists(file))
                {
                    yield return TargetGone.At(
                        Remark.Of(
                            "entry-target-missing.file",
                            Fact.Title.Is(name),
                            Fact.Path.Is(file),
                            Fact.Volume.Is(volume.Ref)));
                }
            }

            if (entry.Type == EntryType.Windows && !listed.Contains(entry.Id)) yield return NobodyLists.At(Fact.Title.Is(name));
        }

        foreach (var entry in store.Entries)
        {
            foreach (var element in entry.Elements.Where(element =>
                !HasUsualType(entry.Value(element), Setting.FormatOf(element))))
            {
                yield return WrongType.At(
                    Fact.Title.Is(entry.Title ?? entry.Type.Name),
                    Fact.Setting.Is(Settings.NameOf(element, entry.Type)));
            }
        }
    }

    private static bool HasUsualType(HiveValue? value, SettingFormat format) => format switch
    {
        SettingFormat.Text or SettingFormat.Entry => value?.Type == HiveValueType.Text,
        SettingFormat.EntryList => value?.Type == HiveValueType.TextList,
        SettingFormat.Other => true,
        _ => value?.Type == HiveValueType.Binary
    };

    /// <summary>A store by itself: whether it loads, and what dangles in it.</summary>
    public static IReadOnlyList<Finding> Of(byte[] file)
    {
        BootStore store;
        try
        {
            var header = Hive.Open(file).Header;
            if (HiveHeader.Size + (long)header.BinsBytes > file.Length)
            {
                return [StoreCheck.Truncated.At(
                    Fact.SizeBytes.Is(file.Length),
                    Fact.NeededBytes.Is(HiveHeader.Size + (long)header.BinsBytes))];
            }

            if (!header.ChecksumMatches) return [StoreCheck.BadChecksum.At()];
            store = BootStore.Read(file);
        }
        catch (HiveDamagedException e)
        {
            return [StoreCheck.Damaged.At(Fact.Said.Is(e.Why))];
        }

        if (store.Damage.Count > 0) return [StoreCheck.Damaged.At(Fact.Said.Is(store.Damage[0]))];
        if (store.Entries.Count == 0) return [StoreCheck.NoEntries.At()];
        return [
            .. ManagerEntryCheck.FindingsOf(store),
            .. store.WindowsEntries.Count == 0 && !store.StartsOnlyImage
                ? [WindowsEntryCheck.Missing.At(Fact.EntryCount.Is(store.Entries.Count))]
                : Array.Empty<Finding>()
        ];
    }
}

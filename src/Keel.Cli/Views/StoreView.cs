using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Cli.Views;

/// <summary>Shows the entries of a store.</summary>
internal sealed class StoreView(Output output, BootStore store, IDeviceNames devices, Machine? machine)
{
    private readonly SettingText text = new(store, devices);

    /// <summary>The menu as the user would see it, then the rest.</summary>
    public void ShowList(bool all)
    {
        var listed = EntryPicker.Listed(store);
        if (output.IsJson)
        {
            KeelJson.Print(
                new StoreListDocument([.. listed.Select((entry, index) => Document(entry, index + 1))]),
                KeelJson.Default.StoreListDocument);
            return;
        }

        var order = StoreOutline.Menu(store).ToHashSet();
        output.Paragraph($"{StoreOutline.MenuSentence(store)}", style: "bold");
        ShowRows(listed, entry => order.Contains(entry.Id));
        output.Heading("Other entries");
        ShowRows(listed, entry => !order.Contains(entry.Id) && (all || entry.Type.IsApplication));
        var hidden = listed.Count(entry => !entry.Type.IsApplication);
        if (!all && hidden > 0) output.Paragraph($"and {hidden} settings entries, shown with --all", indent: 2, style: "grey");
        foreach (var damage in store.Damage.Take(5)) output.Paragraph($"! {damage}", indent: 2, style: "yellow");
        if (!all) return;
        foreach (var entry in listed) ShowEntry(entry, raw: false, isFirst: false);
    }

    /// <summary>That the store was saved.</summary>
    /// <param name="file">The file that was written.</param>
    /// <param name="form">In which form.</param>
    public void ShowSaved(string file, string form)
    {
        if (output.IsJson)
        {
            KeelJson.Print(new StoreSavedDocument(file, form, store.Entries.Count), KeelJson.Default.StoreSavedDocument);
            return;
        }

        output.Paragraph($"Saved {Words.Count(store.Entries.Count, "entry", "entries")} to {file}.", style: "green");
    }

    /// <summary>All settings of an entry, its own and those inherited.</summary>
    public void ShowEntry(BootEntry entry, bool raw, bool isFirst = true)
    {
        if (output.IsJson)
        {
            KeelJson.Print(
                Document(entry, EntryPicker.Listed(store).ToList().FindIndex(other => other.Id == entry.Id) + 1),
                KeelJson.Default.StoreEntryDocument);
            return;
        }

        output.Heading($"{output.Escape(entry.Title ?? entry.Type.Name)} ({entry.Type.Name}) {entry.Id}", isFirst);
        output.Columns([.. StoreOutline.Settings(store, entry).Select(row => new (string, string?)[]
        {
            (row.Name, row.From is null ? null : "grey"),
            (
                text.Show(row.Owner, row.Element)
                    + (row.From is null ? "" : $"  (from {row.From})")
                    + (raw && row.Owner.Value(row.Element) is { } value ? $"  [{SettingText.Raw(value)}]" : ""),
                row.From is null ? null : "grey")
        })]);
    }

    private void ShowRows(IReadOnlyList<BootEntry> listed, Func<BootEntry, bool> take) =>
        output.Columns([.. listed
            .Select((entry, index) => (entry, index))
            .Where(row => take(row.entry))
            .Select(row => new (string, string?)[]
    {
        ($"{row.index + 1}", "bold"),
        (row.entry.Title ?? row.entry.Type.Name, null),
        (SignsOf(row.entry), "green"),
        (StoreTargetText(row.entry), null)
    })]);

    /// <summary>Preferred, started once, safe: in a word each.</summary>
    private string SignsOf(BootEntry entry)
    {
        var isSafe = StoreOutline.Settings(store, entry).Any(row => row.Name == "safe-start");
        (bool IsSo, string Word)[] signs =
        [
            (entry.Id == store.Preferred, "preferred"),
            (store.StartsOnce(entry.Id), "once"),
            (isSafe, "safe")
        ];
        return string.Join(", ", signs.Where(sign => sign.IsSo).Select(sign => sign.Word));
    }

    /// <summary>What the entry points at, and whether that is there.</summary>
    private string StoreTargetText(BootEntry entry) =>
        StoreOutline.Target(entry, devices, machine is null ? null : machine.VolumeOf);

    private StoreEntryDocument Document(BootEntry entry, int number) => new(
        number,
        entry.Id.ToString(),
        entry.Type.Name,
        entry.Title,
        StoreOutline.Menu(store).Contains(entry.Id),
        entry.Id == store.Preferred,
        StoreTargetText(entry),
        [.. StoreOutline
            .Settings(store, entry)
            .Select(row =>
                new SettingDocument(
                    row.Name,
                    text.Show(row.Owner, row.Element),
                    row.From,
                    row.Owner.Value(row.Element) is { } value ? Convert.ToHexStringLower(value.Data) : ""))]);
}

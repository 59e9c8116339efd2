using Keel.Core.Facts;
using Keel.Core.Hives;

namespace Keel.Core.Store;

/// <summary>What differs between two stores.</summary>
/// <param name="devices">Tells what devices are called.</param>
public sealed class StoreDifference(IDeviceNames devices)
{
    private const int LineLimit = 40;

    /// <summary>
    /// What is added, dropped and changed from one store to the next; at most 40 lines, and how many more there are.
    /// </summary>
    public IReadOnlyList<Remark> Between(BootStore before, BootStore after)
    {
        var lines = after.Entries
            .SelectMany(entry => before.Entry(entry.Id) is { } old
                ? Changed(before, old, after, entry)
                : [Remark.Of("line.entry-new", Fact.Title.Is(entry.Name))])
            .Concat(before.Entries
                .Where(entry => after.Entry(entry.Id) is null)
                .Select(entry => Remark.Of("line.entry-gone", Fact.Title.Is(entry.Name))))
            .ToList();
        if (lines.Count <= LineLimit) return lines;
        return [.. lines.Take(LineLimit), Remark.Of("line.entries-more", Fact.EntryCount.Is(lines.Count - LineLimit))];
    }

    private IEnumerable<Remark> Changed(BootStore before, BootEntry old, BootStore after, BootEntry entry)
    {
        var (textBefore, textAfter) = (new SettingText(before, devices), new SettingText(after, devices));
        foreach (var element in old.Elements.Union(entry.Elements).Order())
        {
            var (was, becomes) = (old.Value(element), entry.Value(element));
            if (IsSame(was, becomes)) continue;
            var line = Remark.Of(
                "line.setting",
                Fact.Title.Is(entry.Name),
                Fact.Setting.Is(Settings.NameOf(element, entry.Type)));
            if (was is not null) line = line.With(Fact.Before.Is(Told(textBefore.Show(old, element))));
            if (becomes is not null) line = line.With(Fact.After.Is(Told(textAfter.Show(entry, element))));
            yield return line with { Id = was is null ? "line.setting-new" : becomes is null ? "line.setting-gone" : line.Id };
        }
    }

    private static string Told(string value) => value.Length == 0 ? "none" : value;

    private static bool IsSame(HiveValue? was, HiveValue? becomes) => was is not null
        && becomes is not null
        && was.Type == becomes.Type
        && was.Data.AsSpan().SequenceEqual(becomes.Data);
}

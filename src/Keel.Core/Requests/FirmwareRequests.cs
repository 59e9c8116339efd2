using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Store;

namespace Keel.Core.Requests;

/// <summary>What a technician asks of the firmware's start entries; done in memory, like every repair.</summary>
public static class FirmwareRequests
{
    private const string Gone = "gone";

    /// <summary>Drops entries.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="words">Numbers, titles, or "gone" for all whose disk or file is gone.</param>
    /// <param name="evenLast">Also the last one that starts Windows.</param>
    /// <param name="findingId">The finding that the step answers.</param>
    /// <exception cref="RefusedException">It is the last one that starts Windows.</exception>
    public static Step Drop(Machine machine, IReadOnlyList<string> words, bool evenLast, string findingId)
    {
        var entries = StartEntry.Of(machine);
        var chosen = words
            .SelectMany(word =>
                word.Equals(Gone, StringComparison.OrdinalIgnoreCase) ? AllGone(machine, entries) : [Pick(entries, word)])
            .DistinctBy(entry => entry.Number)
            .ToList();
        if (!evenLast && chosen.Find(StartsWindows) is { } windows && !entries.Except(chosen).Any(StartsWindows))
        {
            throw new RefusedException(
                "Nothing was written.",
                $"{windows.Name} \"{windows.Title}\" is the last entry that starts Windows.",
                "If that is meant, run the same command with --even-last.");
        }

        foreach (var entry in chosen) machine.Variables!.Drop(entry.Number);
        var summary = Remark.Of("step.drop-firmware-entries", Fact.EntryCount.Is(chosen.Count));
        return new Step(
            Link.FirmwareEntry,
            findingId,
            summary,
            [.. chosen.Select(FirmwareSteps.EntryLine), FirmwareSteps.OrderLine(machine.Variables!)]);
    }

    /// <summary>As far as the disks that were named say.</summary>
    private static bool StartsWindows(StartEntry entry) =>
        entry is { Option.IsActive: true, Target: StartTarget.Here or StartTarget.NotJudged }
            && BootFiles.Uefi.ManagerPath.Equals(entry.Option.FilePath, StringComparison.OrdinalIgnoreCase);

    /// <summary>Puts entries first in the start order, in this order; the others follow as they did.</summary>
    public static Step Order(Machine machine, IReadOnlyList<string> words, string findingId)
    {
        var variables = machine.Variables!;
        var first = words.Select(word => Pick(StartEntry.Of(machine), word).Number).Distinct().ToList();
        variables.Order = [.. first, .. variables.Order.Where(number => !first.Contains(number))];
        return new Step(Link.FirmwareEntry, findingId, Remark.Of("step.change-order"), FirmwareSteps.OrderLine(variables));
    }

    /// <summary>Sets the entry for the next start alone.</summary>
    public static Step Next(Machine machine, string word, string findingId)
    {
        var entry = Pick(StartEntry.Of(machine), word);
        machine.Variables!.Next = entry.Number;
        return new Step(
            Link.FirmwareEntry,
            findingId,
            Remark.Of("step.start-next", Fact.FirmwareEntry.Is(entry.Name), Fact.Title.Is(entry.Title)),
            Remark.Of("line.order-stays"));
    }

    /// <summary>
    /// An entry by its four digits, with or without "Boot" before them, or by its title or an unambiguous start of it.
    /// </summary>
    private static StartEntry Pick(IReadOnlyList<StartEntry> entries, string word)
    {
        const int listDigits = 2, nameDigits = 4;
        if (word.Length <= listDigits && int.TryParse(word, out var place) && place >= 1 && place <= entries.Count)
            return entries[place - 1];
        var digits = word.StartsWith("Boot", StringComparison.OrdinalIgnoreCase) && word.Length == 8 ? word[4..] : word;
        if (digits.Length == nameDigits
            && ushort.TryParse(digits, System.Globalization.NumberStyles.HexNumber, null, out var number)
            && entries.FirstOrDefault(entry => entry.Number == number) is { } numbered)
        {
            return numbered;
        }

        var titled = entries.Where(entry => entry.Title.StartsWith(word, StringComparison.OrdinalIgnoreCase)).ToList();
        return titled switch
        {
            [var one] => one,
            [] => throw new WrongUsageException(
                $"The firmware has no entry \"{word}\".",
                $"It has {NamesOf(entries)}.",
                "Name an entry by its number in the list, by its four digits or by its title."),
            _ => throw new WrongUsageException(
                $"\"{word}\" fits {titled.Count} entries.",
                $"They are {NamesOf(titled)}.",
                "Name one by its number in the list.")
        };
    }

    private static string NamesOf(IEnumerable<StartEntry> entries) =>
        string.Join(", ", entries.Select(entry => $"{entry.Name[4..]} \"{entry.Title}\"").DefaultIfEmpty("none"));

    private static IReadOnlyList<StartEntry> AllGone(Machine machine, IReadOnlyList<StartEntry> entries)
    {
        if (machine.Disks.Count == 0)
        {
            throw new WrongUsageException(
                "Nothing was dropped.",
                "Which entries lead nowhere shows only beside the machine's disks.",
                "Name every disk of the machine with --with.");
        }

        var gone = entries.Where(entry => entry.Target is StartTarget.Gone or StartTarget.FileGone).ToList();
        return gone.Count > 0
            ? gone
            : throw new WrongUsageException(
                "Nothing was dropped.",
                "Every entry's target is there, or can't be judged.",
                "'keel firmware list' shows them.");
    }
}

using Keel.Core.Hives;

namespace Keel.Core.Store;

/// <summary>
/// Takes settings of one entry over into another of the same type: what says how something starts, never where it lies or which
/// entries it names.
/// </summary>
internal static class SettingCarrier
{
    /// <summary>What an entry is told by itself, or that was for one start only.</summary>
    private static readonly uint[] Own =
    [
        Element.ProgramFile, Element.Title, Element.WindowsFolder, Element.RamdiskFile, Element.SetupSystem,
        Element.KernelFile, Element.HardwareLayerFile, Element.StoreFile, Element.Language
    ];

    /// <summary>Of the manager: what was said for the next start.</summary>
    private static readonly uint[] OfOneStart = [Element.ResumePending];

    /// <summary>Takes over what is carried; gives the elements whose values are others after it.</summary>
    public static IReadOnlyList<uint> Carry(BootEntry from, BootEntry to)
    {
        var changed = new List<uint>();
        foreach (var element in from.Elements.Where(element => IsCarried(element, to.Type)).ToList())
        {
            var value = from.Value(element)!;
            if (!IsWellFormed(element, value)) continue;        // of a damaged store, anything may be left
            var there = to.Value(element);
            if (there?.Type == value.Type && there.Data.AsSpan().SequenceEqual(value.Data)) continue;
            to.Take(element, value);
            changed.Add(element);
        }

        return changed;
    }

    private static bool IsWellFormed(uint element, HiveValue value) => Setting.FormatOf(element) switch
    {
        SettingFormat.Text => value.AsText() is not null,
        SettingFormat.YesNo => value is { Type: HiveValueType.Binary, Data.Length: 1 },
        SettingFormat.NumberList
            => value is { Type: HiveValueType.Binary, Data.Length: > 0 } && value.Data.Length % sizeof(ulong) == 0,
        _ => value is { Type: HiveValueType.Binary, Data.Length: > 0 and <= sizeof(ulong) }
    };

    /// <summary>Elements of the class that speaks to setup itself are never part of a store.</summary>
    private static bool IsCarried(uint element, EntryType type)
    {
        const uint forSetup = 4;
        return element >> 28 != forSetup
            && Setting.FormatOf(element)
                is SettingFormat.Text or SettingFormat.Number or SettingFormat.YesNo or SettingFormat.NumberList
            && !Own.Contains(element)
            && !(type == EntryType.Manager && OfOneStart.Contains(element));
    }
}

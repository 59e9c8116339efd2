using System.Globalization;
using Keel.Core.Errors;
using Keel.Core.Hives;

namespace Keel.Core.Store;

/// <summary>Values of settings as text, and text as values.</summary>
public sealed class SettingText(BootStore store, IDeviceNames devices)
{
    private const int LongestHex = 64;

    /// <summary>The settings of the boot manager whose entries are started.</summary>
    private static readonly uint[] Started = [Element.Preferred, Element.MenuOrder, Element.OnceOnly];

    /// <summary>The value as it is shown.</summary>
    public string Show(BootEntry entry, uint element)
    {
        var value = entry.Value(element);
        var setting = Settings.Known(element, entry.Type);
        var text = Setting.FormatOf(element) switch
        {
            SettingFormat.Text => value?.AsText(),
            SettingFormat.Device => entry.Device(element) is { } device ? devices.Describe(device) : null,
            SettingFormat.Entry => entry.Reference(element) is { } id ? NameOf(id) : null,
            SettingFormat.EntryList
                => value?.AsTextList() is { } ids
                    ? string.Join(", ", ids.Select(id => EntryId.TryParse(id) is { } known ? NameOf(known) : id))
                    : null,
            SettingFormat.YesNo
                => value is { Type: HiveValueType.Binary, Data.Length: > 0 } ? (value.Data[0] != 0 ? "yes" : "no") : null,
            SettingFormat.Number
                => entry.Number(element) is { } number
                    ? setting is not null && number < (ulong)setting.Choices.Length ? setting.Choices[number]
                        : number.ToString(CultureInfo.InvariantCulture)
                    : null,
            SettingFormat.NumberList
                => value is { Type: HiveValueType.Binary }
                    ? string.Join(
                        ", ",
                        value.Data
                            .Chunk(8)
                            .Where(part => part.Length == 8)
                            .Select(part => BitConverter.ToUInt64(part).ToString(CultureInfo.InvariantCulture)))
                    : null,
            _ => null
        };
        return text ?? (value is null ? "(unreadable)" : Raw(value));
    }

    /// <summary>The bytes of the value, in hexadecimal.</summary>
    public static string Raw(HiveValue value) =>
        Convert.ToHexStringLower(value.Data.AsSpan(0, Math.Min(value.Data.Length, LongestHex)))
            + (value.Data.Length > LongestHex ? $"... ({value.Data.Length} bytes)" : "");

    /// <summary>Sets a setting from text.</summary>
    /// <exception cref="WrongUsageException">The name or the value makes no sense, and what would.</exception>
    public void Set(BootEntry entry, string name, string text)
    {
        var setting = Find(entry, name);
        switch (setting.Format)
        {
            case SettingFormat.Text:
                entry.Set(setting.Element, Words(setting, text));
                break;
            case SettingFormat.Device:
                entry.Set(setting.Element, devices.Parse(text));
                break;
            case SettingFormat.Entry:
                entry.Set(setting.Element, Pick(setting, text));
                break;
            case SettingFormat.EntryList:
                entry.Set(
                    setting.Element,
                    text
                        .Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                        .Select(part => Pick(setting, part)));
                break;
            case SettingFormat.YesNo:
                entry.Set(setting.Element, YesNo(setting, text));
                break;
            case SettingFormat.Number:
                entry.Set(setting.Element, Number(setting, text));
                break;
            case SettingFormat.NumberList:
                entry.SetNumbers(
                    setting.Element,
                    text
                        .Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                        .Select(part => Number(setting, part)));
                break;
            default:
                throw new WrongUsageException(
                    $"{setting.Name} can't be set.",
                    "keel does not know what kind of value it has.",
                    "It can be removed: a trailing minus behind its name.");
        }
    }

    public void Remove(BootEntry entry, string name) => entry.Remove(Find(entry, name).Element);

    private static Setting Find(BootEntry entry, string name) => Settings.Named(name, entry.Type) ?? throw Unknown(entry, name);

    private static WrongUsageException Unknown(BootEntry entry, string name)
    {
        var isOfManager = entry.Type != EntryType.Manager && Settings.Named(name, EntryType.Manager) is not null;
        return new WrongUsageException(
            $"There is no setting \"{name}\" for this entry ({entry.Type.Name}).",
            isOfManager
                ? "It is a setting of the boot manager's own entry."
                : $"Near it: {string.Join(", ", Settings.Nearest(name, entry.Type))}.",
            isOfManager ? $"Such as: keel store change DISK manager {name}=VALUE" : "docs/store.md has them all.");
    }

    private EntryId Pick(Setting setting, string words)
    {
        var entry = EntryPicker.Pick(store, words);
        if (setting.Scope == SettingScope.Manager && Started.Contains(setting.Element)) StoreEditing.RequireStartable(entry);
        return entry.Id;
    }

    private static string Words(Setting setting, string text)
    {
        if (text.Length > 0 && !text.Any(char.IsControl)) return text;
        throw new WrongUsageException(
            $"{setting.Name} can't be \"{text}\".",
            text.Length == 0 ? "Nothing stands behind its equals sign." : "There are control characters in it.",
            $"Write {setting.Name}- to remove it.");
    }

    private string NameOf(EntryId id) =>
        store.Entry(id) is { } entry ? entry.Title ?? StoreOutline.NameOf(id) : $"{id} (not in the store)";

    private static bool YesNo(Setting setting, string text) => text.ToLowerInvariant() switch
    {
        "yes" or "on" or "1" or "true" => true,
        "no" or "off" or "0" or "false" => false,
        _
            => throw new WrongUsageException(
                $"{setting.Name} can't be \"{text}\".",
                "It is yes or no.",
                $"Write {setting.Name}=yes or {setting.Name}=no.")
    };

    private static ulong Number(Setting setting, string text)
    {
        var choice = Array.FindIndex(setting.Choices, word => word.Equals(text, StringComparison.OrdinalIgnoreCase));
        if (choice >= 0) return (ulong)choice;
        var isHexadecimal = text.StartsWith("0x", StringComparison.OrdinalIgnoreCase);
        if (ulong.TryParse(
            isHexadecimal ? text[2..] : text,
            isHexadecimal ? NumberStyles.HexNumber : NumberStyles.None,
            CultureInfo.InvariantCulture,
            out var number)
            && (setting.Choices.Length == 0 || number < (ulong)setting.Choices.Length)) return number;
        throw new WrongUsageException(
            $"{setting.Name} can't be \"{text}\".",
            setting.Choices.Length > 0 ? $"It is one of {string.Join(", ", setting.Choices)}." : "It is a whole number.",
            $"Write {setting.Name}={(setting.Choices.Length > 0 ? setting.Choices[0] : "30")}, for example.");
    }
}

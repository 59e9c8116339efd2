using System.Globalization;
using Keel.Core.Errors;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>The language that a Windows was installed in.</summary>
internal static class WindowsLanguage
{
    private const string Key = @"Control\Nls\Language", Value = "InstallLanguage";

    /// <summary>Languages of installation media, by their numbers (MS-LCID).</summary>
    private static readonly Dictionary<int, string> Names = new()
    {
        [0x0401] = "ar-SA",
        [0x0402] = "bg-BG",
        [0x0404] = "zh-TW",
        [0x0405] = "cs-CZ",
        [0x0406] = "da-DK",
        [0x0407] = "de-DE",
        [0x0408] = "el-GR",
        [0x0409] = "en-US",
        [0x040B] = "fi-FI",
        [0x040C] = "fr-FR",
        [0x040D] = "he-IL",
        [0x040E] = "hu-HU",
        [0x0410] = "it-IT",
        [0x0411] = "ja-JP",
        [0x0412] = "ko-KR",
        [0x0413] = "nl-NL",
        [0x0414] = "nb-NO",
        [0x0415] = "pl-PL",
        [0x0416] = "pt-BR",
        [0x0418] = "ro-RO",
        [0x0419] = "ru-RU",
        [0x041A] = "hr-HR",
        [0x041B] = "sk-SK",
        [0x041D] = "sv-SE",
        [0x041E] = "th-TH",
        [0x041F] = "tr-TR",
        [0x0422] = "uk-UA",
        [0x0424] = "sl-SI",
        [0x0425] = "et-EE",
        [0x0426] = "lv-LV",
        [0x0427] = "lt-LT",
        [0x0804] = "zh-CN",
        [0x0809] = "en-GB",
        [0x080A] = "es-MX",
        [0x0816] = "pt-PT",
        [0x0C0A] = "es-ES",
        [0x0C0C] = "fr-CA"
    };

    /// <summary>Such as de-DE; null where the hive does not say one of these, or its boot files are not there.</summary>
    /// <param name="installation">The Windows.</param>
    /// <param name="bootFolder">The folder with its boot files' languages, below \Windows\Boot: PCAT or EFI.</param>
    public static string? Of(WindowsInstallation installation, string bootFolder)
    {
        if (installation.Volume.Files is not { } files) return null;
        var system = SystemHive.Read(files, installation.SystemHivePath);
        if (system is not { ControlSet: { } set, Root: { } root }) return null;
        try
        {
            return int.TryParse(
                root.Find($@"{set}\{Key}")?.Value(Value)?.AsText(),
                NumberStyles.HexNumber,
                CultureInfo.InvariantCulture,
                out var number)
                && Names.TryGetValue(number, out var name)
                && files.FolderExists($@"{installation.Folder}\Boot\{bootFolder}\{name}")
                ? name
                : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }
}

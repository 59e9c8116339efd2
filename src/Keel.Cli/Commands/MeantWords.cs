using Keel.Cli.Terminal;

namespace Keel.Cli.Commands;

/// <summary>
/// Words that people bring from elsewhere, and what they are called here: codes and disks without a command before them, other
/// names of commands and options. The right command is shown, and never run.
/// </summary>
internal static class MeantWords
{
    private const int LeastCodeDigits = 3, MostCodeDigits = 16;

    private static readonly string[] HelpWords = ["/?", "/h", "/help", "-help", "--?", "/-?"];

    private static readonly string[] ImageEndings =
        [".img", ".raw", ".dd", ".vhd", ".vhdx", ".avhdx", ".qcow2", ".vmdk", ".vdi", ".bin", ".image"];

    private static readonly Dictionary<string, string> Commands = new(StringComparer.OrdinalIgnoreCase)
    {
        ["repair"] = "mend DISK",
        ["fix"] = "mend DISK",
        ["recover"] = "mend DISK",
        ["heal"] = "mend DISK",
        ["cure"] = "mend DISK",
        ["check"] = "diagnose DISK",
        ["scan"] = "diagnose DISK",
        ["test"] = "diagnose DISK",
        ["analyze"] = "diagnose DISK",
        ["analyse"] = "diagnose DISK",
        ["status"] = "diagnose DISK",
        ["verify"] = "diagnose DISK",
        ["examine"] = "diagnose DISK",
        ["inspect"] = "diagnose DISK",
        ["boot"] = "diagnose DISK",
        ["list"] = "survey",
        ["ls"] = "survey",
        ["info"] = "survey",
        ["show"] = "survey",
        ["disks"] = "survey",
        ["volumes"] = "survey",
        ["detect"] = "survey",
        ["bcd"] = "store list DISK",
        ["bootmenu"] = "store list DISK",
        ["menu"] = "store list DISK",
        ["entries"] = "store list DISK",
        ["rebuild"] = "store rebuild DISK",
        ["partitions"] = "layout show DISK",
        ["partition"] = "layout show DISK",
        ["table"] = "layout show DISK",
        ["gpt"] = "layout show DISK",
        ["bootsector"] = "sector show DISK",
        ["rollback"] = "undo DISK",
        ["revert"] = "undo DISK",
        ["restore"] = "undo DISK",
        ["back"] = "undo DISK",
        ["log"] = "logbook",
        ["logs"] = "logbook",
        ["drivers"] = "services list DISK",
        ["driver"] = "services list DISK",
        ["startup"] = "programs list DISK",
        ["autostart"] = "programs list DISK",
        ["efi"] = "firmware list",
        ["uefi"] = "firmware list",
        ["nvram"] = "firmware list",
        ["image"] = "disk image DEVICE OUT",
        ["backup"] = "disk image DEVICE OUT",
        ["clone"] = "disk image DEVICE OUT",
        ["health"] = "disk health",
        ["smart"] = "disk health",
        ["usb"] = "stick write ISO DEVICE",
        ["medium"] = "stick write ISO DEVICE",
        ["code"] = "explain CODE",
        ["error"] = "explain CODE",
        ["what"] = "explain CODE",
        ["why"] = "diagnose DISK",
        ["practice"] = "drill list",
        ["practise"] = "drill list",
        ["example"] = "drill list",
        ["unlock"] = "diagnose DISK --unlock -",
        ["decrypt"] = "diagnose DISK --unlock -",
        ["bitlocker"] = "diagnose DISK --unlock -",
        ["events"] = "history DISK",
        ["restorepoints"] = "snapshots list DISK",
        ["bootfiles"] = "files list DISK",
        ["man"] = "manual",
        ["version"] = "--version"
    };

    private static readonly Dictionary<string, string> Options = new(StringComparer.OrdinalIgnoreCase)
    {
        ["--json"] = "--format json",
        ["-j"] = "--format json",
        ["--dry-run"] = "--preview",
        ["--dryrun"] = "--preview",
        ["-n"] = "--preview",
        ["--simulate"] = "--preview",
        ["--whatif"] = "--preview",
        ["--no-write"] = "--preview",
        ["--force"] = "--yes",
        ["-f"] = "--yes",
        ["--assume-yes"] = "--yes",
        ["--no-color"] = "--color never",
        ["--no-colour"] = "--color never",
        ["--colour"] = "--color WHEN",
        ["--ascii"] = "--plain",
        ["--debug"] = "--verbose",
        ["--output"] = "--out FILE",
        ["-o"] = "--out FILE",
        ["--error"] = "--code CODE",
        ["--message"] = "--code \"MESSAGE\"",
        ["--key"] = "--unlock FILE",
        ["--password"] = "--unlock FILE",
        ["--recovery-key"] = "--unlock FILE",
        ["--decrypt"] = "--unlock FILE",
        ["--log"] = "--logbook DIR",
        ["--partition"] = "--volume N",
        ["--uefi"] = "--firmware uefi",
        ["--bios"] = "--firmware bios"
    };

    /// <summary>Whether a word asks for help, as people of another system type it.</summary>
    public static bool AsksForHelp(string word) =>
        HelpWords.Contains(word, StringComparer.OrdinalIgnoreCase) && !Path.Exists(word);

    /// <summary>What to type instead of a word that is no command; null where nothing is known.</summary>
    /// <param name="word">The word.</param>
    /// <param name="rest">What follows it.</param>
    public static string? Instead(string word, IReadOnlyList<string> rest)
    {
        if (IsCode(word))
            return $"'keel explain {word}' says what it means; 'keel diagnose DISK --code {word}' looks for its cause.";
        if (IsDisk(word))
        {
            var typed = CommandWords.Quoted(word);
            return $"'keel diagnose {typed}' says why it does not start; 'keel mend {typed}' mends it, after asking.";
        }

        if (!Commands.TryGetValue(word.Replace("-", "", StringComparison.Ordinal).TrimStart('/'), out var command)) return null;
        var disk = rest.FirstOrDefault(IsDisk);
        if (disk is not null) command = command.Replace("DISK", CommandWords.Quoted(disk), StringComparison.Ordinal);
        return $"Here that is 'keel {command}'.";
    }

    /// <summary>What an option is called here; null where nothing is known, or the command has none such.</summary>
    /// <param name="option">The option as it was typed.</param>
    /// <param name="known">The options of the command.</param>
    public static string? OptionInstead(string option, IReadOnlyCollection<string> known) =>
        Options.TryGetValue(option.Split('=')[0], out var ours) && known.Contains(ours.Split(' ')[0]) ? ours : null;

    private static bool IsCode(string word)
    {
        var isHexadecimal = word.StartsWith("0x", StringComparison.OrdinalIgnoreCase);
        var digits = isHexadecimal ? word[2..] : word;
        return !Path.Exists(word)
            && digits.Length >= (isHexadecimal ? 1 : LeastCodeDigits)
            && digits.Length <= MostCodeDigits
            && digits.All(char.IsAsciiHexDigit)
            && digits.Any(char.IsAsciiDigit);
    }

    private static bool IsDisk(string word) =>
        Path.Exists(word)
            || word.StartsWith("/dev/", StringComparison.Ordinal)
            || word.StartsWith("nbd://", StringComparison.OrdinalIgnoreCase)
            || ImageEndings.Contains(Path.GetExtension(word), StringComparer.OrdinalIgnoreCase);
}

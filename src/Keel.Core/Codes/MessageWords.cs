using System.Text.RegularExpressions;

namespace Keel.Core.Codes;

/// <summary>
/// The words of a message as they are compared: small letters, without what every sentence has, endings taken off, and one word
/// for all that mean the same.
/// </summary>
public static partial class MessageWords
{
    private const int LeastStem = 4;

    private static readonly HashSet<string> Small =
    [
        "a", "an", "the", "is", "are", "of", "or", "to", "your", "you", "my", "for", "and", "on", "in", "at", "was", "were", "it",
        "its", "says", "say", "said", "screen", "with", "that", "this", "be", "by", "from", "just", "only", "some", "something",
        "like", "then", "has", "have", "had", "i", "me", "we", "he", "she", "as", "so", "but", "get", "got", "shows", "show",
        "message", "please", "after",
        "could", "can", "did", "do", "does", "will", "would", "which", "when", "there", "all", "time", "any",

        // German, French, Spanish, Italian, Portuguese.
        "der", "die", "das", "den", "dem", "des", "ein", "eine", "einen", "ist", "sind", "und", "oder", "im", "auf", "von", "zu",
        "mit", "bei", "beim", "es", "er", "sie", "ihr", "ihre", "ihrem", "wird", "wurde", "werden", "kann", "sich", "da", "steht",
        "sagt", "dann", "bitte", "nur", "soll", "man",
        "le", "la", "les", "un", "une", "du", "de", "est", "et", "ou", "en", "au", "ce", "cet", "cette", "votre", "mon", "ma",
        "il",
        "elle", "que", "qui", "se", "sur", "pour", "par", "avec", "dans", "ne", "ete", "dit",
        "el", "los", "las", "una", "del", "su", "tu", "mi", "por", "para", "con", "lo", "ha", "esta", "dice", "al",
        "gli", "di", "della", "nel", "alla", "suo", "che", "per", "e", "essere", "stato",
        "o", "um", "uma", "dos", "em", "na", "seu", "sua", "meu", "com", "foi", "ser", "diz"
    ];

    /// <summary>Words that are taken for another, in their short form.</summary>
    private static readonly Dictionary<string, string> Same = new(StringComparer.Ordinal)
    {
        ["computer"] = "device",
        ["pc"] = "device",
        ["machine"] = "device",
        ["laptop"] = "device",
        ["wasnt"] = "not",
        ["isnt"] = "not",
        ["couldnt"] = "not",
        ["cant"] = "not",
        ["cannot"] = "not",
        ["didnt"] = "not",
        ["doesnt"] = "not",
        ["wont"] = "not",
        ["dont"] = "not",
        ["no"] = "not",
        ["unable"] = "not",
        ["never"] = "not",
        ["failed"] = "fail",
        ["failure"] = "fail",
        ["fails"] = "fail",
        ["os"] = "system",
        ["harddisk"] = "disk",
        ["hdd"] = "disk",
        ["ssd"] = "disk",
        ["drive"] = "disk",
        ["drives"] = "disk",
        ["disc"] = "disk",
        ["boot"] = "start",
        ["booting"] = "start",
        ["bootable"] = "start",
        ["startup"] = "start",
        ["starting"] = "start",
        ["corrupted"] = "corrupt",
        ["corruption"] = "corrupt",
        ["damaged"] = "corrupt",
        ["broken"] = "corrupt",
        ["lost"] = "missing",
        ["gone"] = "missing",
        ["detected"] = "found",
        ["detect"] = "found",
        ["loading"] = "load",
        ["loaded"] = "load",
        ["loads"] = "load",
        ["bcd"] = "bcd",
        ["bootmanager"] = "bootmgr",
        ["datafile"] = "data",
        ["repaired"] = "repair",
        ["repairs"] = "repair",
        ["repairing"] = "repair",
        ["fixing"] = "repair",
        ["fix"] = "repair",
        ["restarts"] = "restart",
        ["reboots"] = "restart",
        ["reboot"] = "restart",
        ["rebooting"] = "restart",
        ["restarting"] = "restart",
        ["verified"] = "verify",
        ["verification"] = "verify",
        ["signed"] = "signature",
        ["signing"] = "signature",
        ["connected"] = "connect",
        ["accessed"] = "access",
        ["inaccessible"] = "access-not",
        ["accessible"] = "access",
        ["wrong"] = "problem",
        ["issue"] = "problem",
        ["ran"] = "run",
        ["runs"] = "run",
        ["running"] = "run",
        ["endless"] = "forever",
        ["loops"] = "loop",
        ["looping"] = "loop",
        ["forever"] = "loop",
        ["again"] = "loop",
        ["over"] = "loop",
        ["stuck"] = "hang",
        ["hangs"] = "hang",
        ["frozen"] = "hang",
        ["freezes"] = "hang",
        ["circle"] = "dots",
        ["circles"] = "dots",
        ["circling"] = "spin",
        ["spinning"] = "spin",
        ["turning"] = "spin",
        ["turns"] = "spin",
        ["wheel"] = "dots",
        ["pointer"] = "cursor",
        ["mouse"] = "cursor",
        ["arrow"] = "cursor",
        ["underscore"] = "cursor",
        ["dash"] = "cursor",
        ["flashing"] = "blink",
        ["flashes"] = "blink",
        ["dark"] = "black",
        ["blank"] = "black",
        ["find"] = "found",
        ["finds"] = "found",
        ["identified"] = "found",
        ["listed"] = "found",
        ["imminent"] = "predict",
        ["predicts"] = "predict",
        ["security"] = "secure",
        ["authenticate"] = "verify",
        ["authenticated"] = "verify",
        ["authentication"] = "verify",
        ["ipv4"] = "network",
        ["ipv6"] = "network",
        ["pxe"] = "network",
        ["updating"] = "update",
        ["updates"] = "update",
        ["endlessly"] = "loop",
        ["repeatedly"] = "loop",
        ["always"] = "loop",
        ["constantly"] = "loop",
        ["keeps"] = "loop",
        ["ever"] = "loop",
        ["end"] = "loop",
        ["every"] = "loop",
        ["each"] = "loop",
        ["itself"] = "loop",
        ["yesterday"] = "loop",
        ["hours"] = "loop",
        ["night"] = "loop",
        ["medium"] = "media",
        ["stick"] = "media",
        ["denied"] = "deny",
        ["refused"] = "deny",

        // German, French, Spanish, Italian, Portuguese; accents are off.
        ["nicht"] = "not",
        ["kein"] = "not",
        ["keine"] = "not",
        ["pas"] = "not",
        ["aucun"] = "not",
        ["non"] = "not",
        ["nessun"] = "not",
        ["nao"] = "not",
        ["nenhum"] = "not",
        ["ningun"] = "not",
        ["fehlt"] = "missing",
        ["fehlen"] = "missing",
        ["manquant"] = "missing",
        ["manquantes"] = "missing",
        ["manque"] = "missing",
        ["falta"] = "missing",
        ["faltan"] = "missing",
        ["faltando"] = "missing",
        ["manca"] = "missing",
        ["mancante"] = "missing",
        ["mancanti"] = "missing",
        ["ausente"] = "missing",
        ["ausentes"] = "missing",
        ["gefunden"] = "found",
        ["trouve"] = "found",
        ["encontro"] = "found",
        ["encontrado"] = "found",
        ["trovato"] = "found",
        ["rechner"] = "device",
        ["gerat"] = "device",
        ["ordinateur"] = "device",
        ["appareil"] = "device",
        ["peripherique"] = "device",
        ["equipo"] = "device",
        ["dispositivo"] = "device",
        ["computador"] = "device",
        ["festplatte"] = "disk",
        ["datentrager"] = "disk",
        ["laufwerk"] = "disk",
        ["laufwerke"] = "disk",
        ["disque"] = "disk",
        ["disques"] = "disk",
        ["lecteur"] = "disk",
        ["lecteurs"] = "disk",
        ["disco"] = "disk",
        ["unidad"] = "disk",
        ["unidades"] = "disk",
        ["unita"] = "disk",
        ["unidade"] = "disk",
        ["requis"] = "required",
        ["requerido"] = "required",
        ["richiesto"] = "required",
        ["erforderliche"] = "required",
        ["erforderliches"] = "required",
        ["benotigte"] = "required",
        ["benotigtes"] = "required",
        ["necesario"] = "required",
        ["necessario"] = "required",
        ["necessaire"] = "required",
        ["exigido"] = "required",
        ["datei"] = "file",
        ["fichier"] = "file",
        ["archivo"] = "file",
        ["arquivo"] = "file",
        ["volumes"] = "volume",
        ["partition"] = "volume",
        ["partitions"] = "volume",
        ["recognized"] = "recognise",
        ["recognised"] = "recognise"
    };

    /// <summary>Names of start files that people write in two words.</summary>
    private static string WithWholeNames(string text) => NtLoader().Replace(BootManager().Replace(text, "bootmgr"), "ntldr");

    /// <summary>The words of a text, each once.</summary>
    public static HashSet<string> Of(string text)
    {
        var found = new HashSet<string>(StringComparer.Ordinal);
        var plain = WithWholeNames(WithoutAccents(text.ToLowerInvariant()))
            .Replace("'", "", StringComparison.Ordinal)
            .Replace("\u2019", "", StringComparison.Ordinal);
        foreach (Match piece in Word().Matches(plain))
        {
            var word = piece.Value.Trim('.');
            if (word.Length > 1 && !Small.Contains(word)) found.Add(Same.GetValueOrDefault(word) ?? Short(word));
        }

        return found;
    }

    /// <summary>
    /// All words of a text in their order, in small plain letters, with a blank before, between and behind them.
    /// </summary>
    public static string Plain(string text)
    {
        var plain = WithWholeNames(WithoutAccents(text.ToLowerInvariant()))
            .Replace("'", "", StringComparison.Ordinal)
            .Replace("\u2019", "", StringComparison.Ordinal);
        var words = Word().Matches(plain).Select(piece => piece.Value.Trim('.')).Where(word => word.Length > 0);
        return $" {string.Join(' ', words)} ";
    }

    /// <summary>The text with plain letters for those of the neighbours' languages.</summary>
    private static string WithoutAccents(string text)
    {
        const string accented = "\u00e0\u00e1\u00e2\u00e3\u00e4\u00e7\u00e8\u00e9\u00ea\u00eb\u00ec\u00ed\u00ee\u00ef"
            + "\u00f1\u00f2\u00f3\u00f4\u00f5\u00f6\u00f9\u00fa\u00fb\u00fc";
        const string plain = "aaaaaceeeeiiiinooooouuuu";
        if (!text.AsSpan().ContainsAnyExceptInRange('\0', '\u007f')) return text;
        return string.Create(text.Length, text, (letters, from) =>
        {
            for (var at = 0; at < letters.Length; at++)
            {
                var found = accented.IndexOf(from[at], StringComparison.Ordinal);
                letters[at] = found >= 0 ? plain[found] : from[at];
            }
        });
    }

    /// <summary>The word without the ending that only says how it is used.</summary>
    private static string Short(string word)
    {
        foreach (var ending in (string[])["ings", "ing", "ies", "es", "ed", "s"])
        {
            if (word.EndsWith(ending, StringComparison.Ordinal) && word.Length - ending.Length >= LeastStem)
            {
                var stem = word[..^ending.Length];
                return Same.GetValueOrDefault(stem) ?? stem;
            }
        }

        return word;
    }

    [GeneratedRegex(@"\bboot[ -]mgr\b")]
    private static partial Regex BootManager();

    [GeneratedRegex(@"\bnt[ -]?(ldr|loader)\b", RegexOptions.ExplicitCapture)]
    private static partial Regex NtLoader();

    [GeneratedRegex(@"[\p{L}\p{Nd}.]+")]
    private static partial Regex Word();
}

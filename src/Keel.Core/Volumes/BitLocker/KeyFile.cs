using System.Buffers;
using System.Security.Cryptography;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Keys;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>
/// Reads files that hold a key: what they hold, their content tells. A page that Windows printed holds the digits among other
/// text; a startup key is binary; anything else on one line is a password.
/// </summary>
public static class KeyFile
{
    /// <summary>No such file is longer, in bytes.</summary>
    public const int MostBytes = 64 * 1024;

    /// <summary>No list of many is longer, in bytes.</summary>
    public const int MostListBytes = 16 * 1024 * 1024;

    private const string ListForm =
        "Each line has the identifier that the recovery prompt shows (its first 8 digits, or all of it), a blank, and the "
            + "recovery key of 48 digits.";

    private const char ByteOrderMark = '\uFEFF';

    /// <summary>The keys of a file's contents: one, or those of a page with several. The contents are cleared.</summary>
    /// <param name="contents">The contents.</param>
    /// <param name="from">Where they came from, for errors.</param>
    /// <exception cref="WrongUsageException">There is none in it.</exception>
    public static IReadOnlyList<VolumeKey> Read(Span<byte> contents, string from)
    {
        var startup = contents.ToArray();
        try
        {
            if (StartupKey.Read(startup, from) is { } key) return [key];
        }
        finally
        {
            CryptographicOperations.ZeroMemory(startup);
        }

        var letters = Letters(contents);
        try
        {
            return OfText(letters, from);
        }
        finally
        {
            Array.Clear(letters);
            CryptographicOperations.ZeroMemory(contents);
        }
    }

    /// <summary>A key as somebody typed it: digits, or a password.</summary>
    /// <exception cref="WrongUsageException">It is empty, or digits with a slip.</exception>
    public static VolumeKey OfLine(ReadOnlySpan<char> line, string from)
    {
        line = line.Trim("\r\n");                       // blanks may belong to a password
        if (RecoveryDigits.LooksLikeOne(line)) return Recovery(line, from);
        return line.IsEmpty
            ? throw new WrongUsageException(
                $"There is no key in {from}.",
                "It is empty.",
                "Put the recovery key (48 digits) or the password in it, or name the startup key's file (.BEK).")
            : Password(line, from);
    }

    /// <summary>A list for many machines: on each line the identifier of a protector, and its recovery key.</summary>
    /// <param name="contents">The contents, which are cleared.</param>
    /// <param name="from">Where they came from.</param>
    /// <exception cref="WrongUsageException">A line makes no sense; its number is told, and nothing of it.</exception>
    public static IReadOnlyList<VolumeKey> ReadList(Span<byte> contents, string from)
    {
        var letters = Letters(contents);
        try
        {
            var keys = new List<VolumeKey>();
            var number = 0;
            foreach (var raw in letters.AsSpan().EnumerateLines())
            {
                number++;
                var line = raw.Trim();
                if (line.IsEmpty || line[0] == '#') continue;
                keys.Add(OfListLine(line, from, number));
            }

            return keys.Count > 0 ? keys : throw new WrongUsageException(
                $"There is no key in {from}.",
                "No line has one.",
                ListForm);
        }
        finally
        {
            Array.Clear(letters);
            CryptographicOperations.ZeroMemory(contents);
        }
    }

    private static VolumeKey OfListLine(ReadOnlySpan<char> line, string from, int number)
    {
        const int leastDigits = 8;
        var end = line.IndexOfAny(" \t,;=");
        var identifier = (end < 0 ? line : line[..end]).Trim("{}\"");
        var key = end < 0 ? [] : line[end..].Trim(" \t,;=\"");
        var isIdentifier = identifier.Length >= leastDigits && !identifier.ContainsAnyExcept(Identifier);
        if (isIdentifier && RecoveryDigits.Read(key, out _) is { } content)
        {
            return new VolumeKey(VolumeKeyKind.Recovery, content, from)
            {
                Protector = identifier.ToString(),
                IsFromList = true
            };
        }

        throw new WrongUsageException(
            $"Line {number} of {from} makes no sense.",
            isIdentifier ? "What follows the identifier is no recovery key." : "It does not begin with the identifier of a key.",
            ListForm);
    }

    private static readonly SearchValues<char> Identifier = SearchValues.Create("0123456789abcdefABCDEF-");

    private static List<VolumeKey> OfText(ReadOnlySpan<char> text, string from)
    {
        var found = new List<VolumeKey>();
        var trimmed = text.Trim();
        if (RecoveryDigits.LooksLikeOne(trimmed)) return [Recovery(trimmed, from)];
        foreach (var line in trimmed.EnumerateLines())
        {
            var part = line.Trim();
            if (RecoveryDigits.LooksLikeOne(part)) found.Add(Recovery(part, from));
            else if (LastWord(part) is { IsEmpty: false } last && RecoveryDigits.LooksLikeOne(last))
                found.Add(Recovery(last, from));
        }

        if (found.Count > 0) return found.ConvertAll(key => key with { IsOneOfSeveral = found.Count > 1 });
        if (trimmed.IsEmpty || !trimmed.ContainsAny('\r', '\n')) return [OfLine(trimmed.IsEmpty ? [] : text, from)];
        throw new WrongUsageException(
            $"There is no key in {from}.",
            "It has several lines, and none of them is a recovery key.",
            "Put the recovery key (48 digits) or the password in it, on a line of its own.");
    }

    /// <summary>What stands behind a name and a colon, as on a page that was printed.</summary>
    private static ReadOnlySpan<char> LastWord(ReadOnlySpan<char> line)
    {
        var end = line.LastIndexOfAny(" \t:=");
        return end < 0 ? [] : line[(end + 1)..];
    }

    private static VolumeKey Recovery(ReadOnlySpan<char> digits, string from)
    {
        if (RecoveryDigits.Read(digits, out var wrong) is { } content)
            return new VolumeKey(VolumeKeyKind.Recovery, content, from);
        throw new WrongUsageException(
            $"The recovery key in {from} is not right.",
            wrong == 0
                ? "A recovery key has 48 digits, in 8 groups of 6."
                : $"Group {wrong} of 8 has a slip in it: it can't be divided by 11.",
            wrong == 0 ? "Compare it with where it was copied from." : $"Compare group {wrong} with where it was copied from.");
    }

    private static VolumeKey Password(ReadOnlySpan<char> password, string from)
    {
        var bytes = new byte[Encoding.Unicode.GetByteCount(password)];
        Encoding.Unicode.GetBytes(password, bytes);
        var sum = Sha256Sum.Of(bytes);
        CryptographicOperations.ZeroMemory(bytes);
        return new VolumeKey(VolumeKeyKind.Password, Secret.Taking(sum), from);
    }

    /// <summary>UTF-8, or UTF-16 by its mark or by its zeros: Windows saves such pages so.</summary>
    private static char[] Letters(ReadOnlySpan<byte> contents)
    {
        var isBig = contents.StartsWith((ReadOnlySpan<byte>)[0xFE, 0xFF]);
        var isLittle = contents.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xFE]) || (contents.Length > 1 && contents[1] == 0);
        Encoding encoding = isBig ? Encoding.BigEndianUnicode : isLittle ? Encoding.Unicode : Encoding.UTF8;
        var letters = new char[encoding.GetCharCount(contents)];
        encoding.GetChars(contents, letters);
        if (letters.Length == 0 || letters[0] != ByteOrderMark) return letters;
        var rest = letters[1..];
        Array.Clear(letters);
        return rest;
    }
}

using System.Text;
using Keel.Cli.Terminal;
using Keel.Core.Errors;
using Keel.Core.Keys;
using Keel.Core.Volumes.BitLocker;

namespace Keel.Cli.Commands;

/// <summary>Asks for a recovery key or a password at the terminal; it is never shown.</summary>
internal static class KeyQuestion
{
    private const int Attempts = 5;

    /// <summary>The key; null where nobody gives one.</summary>
    public static VolumeKey? Ask(Output output)
    {
        for (var attempt = 0; attempt < Attempts; attempt++)
        {
            using var typed = HiddenLine.Ask(output, "The recovery key (48 digits), or the password; it is not shown:");
            if (typed is null || typed.Length == 0) return null;
            var letters = new char[Encoding.UTF8.GetCharCount(typed.Bytes)];
            Encoding.UTF8.GetChars(typed.Bytes, letters);
            try
            {
                if (Mended(output, letters) is { } key) return key;
            }
            catch (WrongUsageException e)
            {
                output.Message($"{e.Why} {e.Todo}");
            }
            finally
            {
                Array.Clear(letters);
            }
        }

        return null;
    }

    /// <summary>A slip in one group is asked for again by itself: nobody types 48 digits twice with pleasure.</summary>
    private static VolumeKey? Mended(Output output, Span<char> line)
    {
        const string from = "the terminal";
        if (!RecoveryDigits.LooksLikeOne(line)) return KeyFile.OfLine(line, from);
        Span<char> digits = stackalloc char[RecoveryDigits.Groups * RecoveryDigits.GroupDigits];
        var count = 0;
        foreach (var letter in line)
        {
            if (char.IsAsciiDigit(letter) && count < digits.Length) digits[count++] = letter;
        }

        try
        {
            for (var attempt = 0; attempt < Attempts && count == digits.Length; attempt++)
            {
                if (RecoveryDigits.Read(digits, out var wrong) is { } content)
                    return new VolumeKey(VolumeKeyKind.Recovery, content, from);
                using var group = HiddenLine.Ask(
                    output,
                    $"Group {wrong} of {RecoveryDigits.Groups} has a slip in it. Those 6 digits again:");
                if (group is null) return null;
                if (group.Length != RecoveryDigits.GroupDigits) continue;
                for (var at = 0; at < group.Length; at++)
                    digits[((wrong - 1) * RecoveryDigits.GroupDigits) + at] = (char)group.Bytes[at];
            }

            return KeyFile.OfLine(line, from);
        }
        finally
        {
            digits.Clear();
        }
    }
}

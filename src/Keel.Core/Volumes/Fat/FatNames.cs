using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Fat;

/// <summary>Long and short names of FAT (Microsoft FAT specification 1.03, "Long Directory Entries").</summary>
internal static class FatNames
{
    public const int ShortBytes = 11;
    private const int BaseBytes = 8, LongestName = 255, LettersPerSlot = FatLongSlotRecord.LetterCount;
    private const byte LongMark = 0x0F, MarksMask = 0x3F, LastSlot = 0x40;
    private const string ShortSpecials = "$%'-_@~`!(){}^#&", NeverAllowed = "\"*/:<>?\\|";

    public static bool IsLongSlot(ReadOnlySpan<byte> slot) => (slot.At<FatLongSlotRecord>(0).Marks & MarksMask) == LongMark;

    /// <summary>"NAME.EXT" as a person reads it.</summary>
    public static string ShortText(ReadOnlySpan<byte> slot, bool lowerBase = false, bool lowerExtension = false)
    {
        const byte kanjiStandIn = 0x05;
        var bytes = slot[..ShortBytes].ToArray();
        if (bytes[0] == kanjiStandIn) bytes[0] = FatEntry.Deleted;
        var start = Encoding.Latin1.GetString(bytes, 0, BaseBytes).TrimEnd(' ');
        var end = Encoding.Latin1.GetString(bytes, BaseBytes, ShortBytes - BaseBytes).TrimEnd(' ');
        if (lowerBase) start = start.ToLowerInvariant();
        if (lowerExtension) end = end.ToLowerInvariant();
        return end.Length > 0 ? $"{start}.{end}" : start;
    }

    /// <summary>The long name in the slots before a short one; null where they are damaged or belong to another.</summary>
    /// <param name="slots">As they stand in the folder: the last part first.</param>
    /// <param name="shortSlot">The short slot that the long ones belong to.</param>
    public static string? LongText(ReadOnlySpan<byte> slots, ReadOnlySpan<byte> shortSlot)
    {
        var count = slots.Length / FatEntry.SlotBytes;
        var sum = Checksum(shortSlot);
        var name = new StringBuilder();
        for (var part = 1; part <= count; part++)
        {
            var slot = slots.At<FatLongSlotRecord>((count - part) * FatEntry.SlotBytes);
            var number = part == count ? part | LastSlot : part;
            if (slot.Number != number || slot.Checksum != sum) return null;
            for (var index = 0; index < LettersPerSlot; index++)
            {
                var letter = (char)slot[index];
                if (letter == 0) return name.Length > 0 ? name.ToString() : null;
                name.Append(letter);
            }
        }

        return count > 0 ? name.ToString() : null;
    }

    /// <summary>The slots that a long name needs, in the order of the folder.</summary>
    public static byte[] LongSlots(string name, ReadOnlySpan<byte> shortName)
    {
        var count = (name.Length + LettersPerSlot - 1) / LettersPerSlot;
        var slots = new byte[count * FatEntry.SlotBytes];
        var sum = Checksum(shortName);
        for (var part = 0; part < count; part++)
        {
            var slot = new FatLongSlotRecord
            {
                Number = (byte)(part + 1 == count ? (part + 1) | LastSlot : part + 1),
                Marks = LongMark,
                Checksum = sum
            };
            for (var index = 0; index < LettersPerSlot; index++)
            {
                var at = (part * LettersPerSlot) + index;
                slot[index] = at < name.Length ? name[at] : at == name.Length ? (ushort)0 : (ushort)0xFFFF;
            }

            slots.Put((count - 1 - part) * FatEntry.SlotBytes, slot);
        }

        return slots;
    }

    /// <summary>The short name of a file, free in its folder, and how the name as it is written is kept beside it.</summary>
    /// <exception cref="WrongUsageException">No file can have that name.</exception>
    public static FatShortName Choose(string name, Func<byte[], bool> isTaken)
    {
        if (name.Length is 0 or > LongestName
            || name is "." or ".."
            || name.EndsWith('.')
            || name.EndsWith(' ')
            || name.Any(letter => letter < ' ' || NeverAllowed.Contains(letter, StringComparison.Ordinal)))
        {
            throw new WrongUsageException(
                $"\"{name}\" can't be the name of a file on FAT.",
                "Names have 1 to 255 letters, none of \" * / : < > ? \\ |, and end neither with a dot nor with a space.",
                "Choose another name.");
        }

        var dot = name.LastIndexOf('.');
        var start = dot > 0 ? name[..dot] : name;
        var end = dot > 0 ? name[(dot + 1)..] : "";
        if (Fits(start, BaseBytes) && start.Length > 0 && Fits(end, ShortBytes - BaseBytes))
        {
            // Boot code looks for the short name: one that fits is never given a number.
            var exact = Pack(start.ToUpperInvariant(), end.ToUpperInvariant());
            if (!isTaken(exact))
            {
                return new FatShortName(
                    exact,
                    NeedsLong: IsMixed(start) || IsMixed(end),
                    LowerBase: IsLower(start),
                    LowerExtension: IsLower(end));
            }
        }

        var cleanStart = Clean(start);
        var cleanEnd = Clean(end);
        if (cleanEnd.Length > 3) cleanEnd = cleanEnd[..3];
        for (var number = 1; number < 1_000_000; number++)
        {
            var tail = $"~{number}";
            var candidate = Pack(cleanStart[..Math.Min(cleanStart.Length, BaseBytes - tail.Length)] + tail, cleanEnd);
            if (!isTaken(candidate)) return new FatShortName(candidate, NeedsLong: true, LowerBase: false, LowerExtension: false);
        }

        throw new WrongUsageException(
            $"\"{name}\" finds no place in its folder.",
            "All short names that it could have are taken.",
            "Choose another name.");
    }

    private static bool Fits(string part, int room) =>
        part.Length <= room && part.All(letter => IsShortLetter(char.ToUpperInvariant(letter)) && char.IsAscii(letter));

    private static bool IsLower(string part) => part.Any(char.IsAsciiLetterLower) && !part.Any(char.IsAsciiLetterUpper);

    private static bool IsMixed(string part) => part.Any(char.IsAsciiLetterLower) && part.Any(char.IsAsciiLetterUpper);

    private static string Clean(string text) =>
        string.Concat(
            text
                .ToUpperInvariant()
                .Where(letter => letter is not (' ' or '.'))
                .Select(letter => IsShortLetter(letter) ? letter : '_'));

    private static bool IsShortLetter(char letter) =>
        letter is (>= 'A' and <= 'Z') or (>= '0' and <= '9') || ShortSpecials.Contains(letter, StringComparison.Ordinal);

    private static byte[] Pack(string start, string end) =>
        Encoding.ASCII.GetBytes(start.PadRight(BaseBytes) + end.PadRight(ShortBytes - BaseBytes));

    private static byte Checksum(ReadOnlySpan<byte> shortName)
    {
        byte sum = 0;
        foreach (var letter in shortName[..ShortBytes]) sum = (byte)(((sum & 1) << 7) + (sum >> 1) + letter);
        return sum;
    }
}

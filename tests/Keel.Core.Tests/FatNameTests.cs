using System.Text;
using CsCheck;
using Keel.Core.Errors;
using Keel.Core.Volumes.Fat;

namespace Keel.Core.Tests;

/// <summary>Long and short names of FAT: any name can be kept, every short one is its own, and damage is no name.</summary>
public sealed class FatNameTests
{
    private static readonly Gen<char> Letter = Gen.OneOf(
        Gen.Char['a', 'z'],
        Gen.Char['A', 'Z'],
        Gen.Char['0', '9'],
        Gen.Int[0, 5].Select(index => " .+ü木~"[index]));

    private static readonly Gen<string> Name = Gen
        .String[Letter, 1, 60]
        .Select(name => name.Trim('.', ' '))
        .Where(name => name.Length > 0);

    [Fact]
    public void A_long_name_is_read_back_from_its_slots() => Name.Sample(name =>
    {
        var shortName = FatNames.Choose(name, _ => false).Bytes;
        var slots = FatNames.LongSlots(name, shortName);
        slots.Length.ShouldBe((name.Length + 12) / 13 * 32);
        FatNames.LongText(slots, shortName).ShouldBe(name);
        for (var at = 0; at < slots.Length; at += 32) FatNames.IsLongSlot(slots.AsSpan(at)).ShouldBeTrue();
    });

    [Fact]
    public void Slots_with_one_changed_byte_are_no_other_whole_name_of_the_same_file() => Gen
        .Select(Name.Where(name => name.Length > 13), Gen.Int[0, 10_000], Gen.Int[1, 255])
        .Sample((name, place, change) =>
        {
            var shortName = FatNames.Choose(name, _ => false).Bytes;
            var slots = FatNames.LongSlots(name, shortName);
            var which = place % (slots.Length / 32) * 32;

            // Number and checksum say which file the slots belong to; letters have no checksum of their own.
            slots[which + (place % 2 == 0 ? 0 : 13)] ^= (byte)change;
            FatNames.LongText(slots, shortName).ShouldBeNull();
        });

    [Fact]
    public void Slots_of_another_short_name_do_not_count()
    {
        var slots = FatNames.LongSlots("Manifest of the late boat.txt", "MANIFE~1TXT"u8);
        FatNames.LongText(slots, "MANIFE~2TXT"u8).ShouldBeNull();
        FatNames.LongText(slots.AsSpan(32), "MANIFE~1TXT"u8).ShouldBeNull();
        FatNames.LongText([], "MANIFE~1TXT"u8).ShouldBeNull();
    }

    [Fact]
    public void Every_file_of_a_folder_gets_a_short_name_of_its_own() => Name.Array[1, 80].Sample(names =>
    {
        var taken = new HashSet<string>();
        foreach (var name in names)
        {
            var chosen = FatNames.Choose(name, bytes => taken.Contains(Convert.ToHexString(bytes)));
            chosen.Bytes.Length.ShouldBe(11);
            chosen.Bytes.ShouldAllBe(letter => letter >= 0x20 && letter < 0x7F && !char.IsAsciiLetterLower((char)letter));
            taken.Add(Convert.ToHexString(chosen.Bytes)).ShouldBeTrue(name);
        }
    });

    [Theory]
    [InlineData("BOOTMGR", "BOOTMGR    ", false, false, false)]
    [InlineData("bootmgr", "BOOTMGR    ", false, true, false)]
    [InlineData("boot.SDI", "BOOT    SDI", false, true, false)]
    [InlineData("BOOT.sdi", "BOOT    SDI", false, false, true)]
    [InlineData("bootmgfw.efi", "BOOTMGFWEFI", false, true, true)]
    [InlineData("Bootmgr", "BOOTMGR    ", true, false, false)]
    [InlineData("A", "A          ", false, false, false)]
    [InlineData("memtest.exe.mui", "MEMTES~1MUI", true, false, false)]
    [InlineData("Boat list.txt", "BOATLI~1TXT", true, false, false)]
    [InlineData("a+b.t", "A_B~1   T  ", true, false, false)]
    [InlineData("longer-than-eight", "LONGER~1   ", true, false, false)]
    [InlineData(".hidden", "HIDDEN~1   ", true, false, false)]
    public void A_name_gets_the_short_one_that_others_would_give_it(
        string name,
        string expected,
        bool needsLong,
        bool lowerBase,
        bool lowerExtension)
    {
        var chosen = FatNames.Choose(name, _ => false);
        Encoding.ASCII.GetString(chosen.Bytes).ShouldBe(expected);
        (chosen.NeedsLong, chosen.LowerBase, chosen.LowerExtension).ShouldBe((needsLong, lowerBase, lowerExtension));
    }

    [Theory]
    [InlineData("")]
    [InlineData(".")]
    [InlineData("..")]
    [InlineData("quay.")]
    [InlineData("quay ")]
    [InlineData("a/b")]
    [InlineData("a:b")]
    [InlineData("tab\tname")]
    [InlineData("what?")]
    public void What_can_be_no_name_is_refused(string name) =>
        Should.Throw<WrongUsageException>(() => FatNames.Choose(name, _ => false)).What.ShouldContain(name);

    [Fact]
    public void A_name_longer_than_255_letters_is_refused_and_255_are_kept()
    {
        Should.Throw<WrongUsageException>(() => FatNames.Choose(new string('a', 256), _ => false));
        var name = new string('a', 255);
        var shortName = FatNames.Choose(name, _ => false).Bytes;
        FatNames.LongText(FatNames.LongSlots(name, shortName), shortName).ShouldBe(name);
    }

    [Theory]
    [InlineData("BOOTMGR    ", false, false, "BOOTMGR")]
    [InlineData("BOOT    SDI", true, false, "boot.SDI")]
    [InlineData("BOOT    SDI", false, true, "BOOT.sdi")]
    [InlineData("\u0005RCHIV  TXT", false, false, "åRCHIV.TXT")]
    public void A_short_name_is_read_as_people_write_it(string stored, bool lowerBase, bool lowerExtension, string expected) =>
        FatNames.ShortText(Encoding.Latin1.GetBytes(stored), lowerBase, lowerExtension).ShouldBe(expected);
}

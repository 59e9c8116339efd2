using System.Text;
using CsCheck;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Windows.Media;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Images of installation media and the packed files on them, as others' programs make them.</summary>
public sealed class MediumTests
{
    [Theory]
    [InlineData("HAL.DLL", "HAL.DL_")]
    [InlineData("ntdetect.com", "ntdetect.co_")]
    [InlineData("ntldr", "ntldr._")]
    [InlineData("A.B", "A.B_")]
    public void A_packed_file_has_its_name_with_a_line_at_the_end(string name, string packed) =>
        PackedFile.NameFor(name).ShouldBe(packed);

    [Theory]
    [InlineData("-J")]              // long names
    [InlineData("-R")]              // names of Unix
    [InlineData("-iso-level", "1")] // names of eight letters, in capitals
    public async Task An_image_shows_what_stands_on_the_medium(params string[] form)
    {
        using var scratch = new Scratch();
        var medium = await MakeImage(scratch, form);
        medium.FileExists(@"i386\ntldr").ShouldBeTrue();
        medium.FolderExists("I386").ShouldBeTrue();
        medium.FolderExists("nowhere").ShouldBeFalse();
        medium.List("i386").Select(file => file.Name.ToUpperInvariant()).Order().ShouldBe(["HAL.DL_", "NTLDR"]);
        medium.Read(@"I386\NTLDR").ShouldBe(PracticeNt5.Loader());
        Should.Throw<UnreadableException>(() => medium.Read(@"i386\absent"));
    }

    [Fact]
    public async Task A_packed_file_comes_out_as_it_was()
    {
        using var scratch = new Scratch();
        var medium = await MakeImage(scratch, "-J");
        var packed = medium.Read(@"i386\HAL.DL_");
        PackedFile.IsOne("HAL.DL_", packed).ShouldBeTrue();
        PackedFile.IsOne("HAL.DLL", packed).ShouldBeFalse();
        PackedFile.Unpack("HAL.DL_", packed).ShouldBe(Program());
        Should.Throw<UnreadableException>(() => PackedFile.Unpack("OLD.DL_", [.. "SZDD"u8, .. new byte[20]]))
            .Why.ShouldContain("older");
    }

    [Fact]
    public async Task A_medium_whose_files_lie_in_another_file_system_is_told()
    {
        using var scratch = new Scratch();
        Directory.CreateDirectory(scratch["udf"]);
        await File.WriteAllTextAsync(Path.Combine(scratch["udf"], "README.TXT"), "This disc contains a UDF file system.");
        await Tool.MustAgree("xorriso", "-as", "mkisofs", "-quiet", "-o", scratch["udf.iso"], scratch["udf"]);
        Should.Throw<UnreadableException>(() => new ImageTree(scratch["udf.iso"])).Todo.ShouldContain("mount");
    }

    [Theory]
    [InlineData(0)]
    [InlineData(100)]
    [InlineData(70_000)]
    public async Task What_is_no_image_is_told(int length)
    {
        using var scratch = new Scratch();
        await File.WriteAllBytesAsync(scratch["no.iso"], new byte[length]);
        Should.Throw<UnreadableException>(() => new ImageTree(scratch["no.iso"]));
    }

    [Fact]
    public async Task Damaged_cabinets_and_images_give_errors_of_keels_own()
    {
        using var scratch = new Scratch();
        var medium = await MakeImage(scratch, "-J");
        var packed = medium.Read(@"i386\HAL.DL_");
        var image = await File.ReadAllBytesAsync(scratch["medium.iso"]);
        var directories = image.AsSpan(0, 60 * 1024).ToArray().Length;
        Gen.Select(Gen.Bool, Gen.Int[0, directories - 1], Gen.Byte, Gen.Int[0, packed.Length - 1]).Sample(
            (isCabinet, at, value, cut) =>
            {
                try
                {
                    if (isCabinet)
                    {
                        var bytes = packed.AsSpan(0, Math.Max(cut, 8)).ToArray();
                        bytes[at % bytes.Length] = value;
                        _ = PackedFile.Unpack("HAL.DL_", bytes);
                    }
                    else
                    {
                        var bytes = image.ToArray();
                        bytes[at] = value;
                        bytes[cut + 32_768] ^= value;
                        File.WriteAllBytes(scratch["hostile.iso"], bytes);
                        _ = new ImageTree(scratch["hostile.iso"]).Read(@"i386\ntldr");
                    }
                }
                catch (KeelException)
                {
                    // said, and that is all
                }
            },
            iter: 300,
            threads: 1);
    }

    private static byte[] Program() =>
        Encoding.ASCII.GetBytes(string.Concat(Enumerable.Repeat("the tide tables of Brackwater ", 900)));

    private static async Task<ImageTree> MakeImage(Scratch scratch, params string[] form)
    {
        var folder = Path.Combine(scratch["medium"], "I386");
        Directory.CreateDirectory(folder);
        await File.WriteAllBytesAsync(Path.Combine(folder, "NTLDR"), PracticeNt5.Loader());
        await File.WriteAllBytesAsync(scratch["hal.dll"], Program());
        await Tool.MustAgree("gcab", "-c", "-z", Path.Combine(folder, "HAL.DL_"), scratch["hal.dll"]);
        await Tool.MustAgree("xorriso", ["-as", "mkisofs", "-quiet", .. form, "-o", scratch["medium.iso"], scratch["medium"]]);
        return new ImageTree(scratch["medium.iso"]);
    }
}

using System.Buffers.Binary;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// An image can name any file of this computer; none is opened that does not lie beside it, whatever the name looks like, and
/// whoever would follow it.
/// </summary>
public sealed class ForeignFileTests
{
    private const int MiB = 1024 * 1024, Sector = 512;
    private const string Flat = "RW 8192 FLAT \"SECRET\" 0";
    private static readonly DiskOpening Usual = new(DiskTerms.Usual);
    private static readonly byte[] Secret = Encoding.ASCII.GetBytes("the ledger of the night ferry");

    public static TheoryData<string> Texts =>
    [
        Flat,
        Flat.Replace(' ', '\t'),
        "  " + Flat,
        "RW  8192\tFLAT   \"SECRET\"  0",
        Flat.Replace("SECRET", "../outside/secret", StringComparison.Ordinal),
        Flat.Replace("SECRET", "link", StringComparison.Ordinal),
        Flat.Replace("SECRET", "nbd:unix:/run/socket", StringComparison.Ordinal),
        Flat.Replace("SECRET", "fat:../outside", StringComparison.Ordinal),
        "RW 8192 VMFS \"SECRET\"",
        "RW 8192 FLAT \"beside\" 0\nRW 8192 FLAT \"SECRET\" 0",
        "RW 8192 FLAT \"beside\" 0\nparentCID=12345678\nparentFileNameHint=\"SECRET\"",
        "RW 8192 FLAT \"beside\" 0\n parentCID = 12345678\n\tparentFileNameHint = \"SECRET\"",
        "RW 8192 FLAT \"beside\" 0\nparentCID=12345678",
        "RW 8192 SPARSE \"nested\"",
        "RDONLY 8192 FLAT \"SECRET\" 0",
        "RW 8192 FLAT SECRET 0"
    ];

    [Theory, MemberData(nameof(Texts))]
    public void A_text_that_names_one_elsewhere_is_refused(string lines)
    {
        using var scratch = Room();
        File.WriteAllBytes(
            scratch["images/nested"],
            Sparse(capacity: 0, textSector: 1, lines.Replace("nested", "link", StringComparison.Ordinal) + "\n" + Flat));
        WriteText(scratch, lines);
        ShouldGiveNothing(scratch, FileFormat.Vmdk);
    }

    [Theory]
    [InlineData(0, 1)]
    [InlineData(-1, 1)]
    [InlineData(0, 200)]
    public void A_header_without_a_size_is_refused(long capacity, long textSector)
    {
        using var scratch = Room();
        File.WriteAllBytes(
            scratch["images/disk"],
            Sparse(capacity, textSector, Flat.Replace("SECRET", scratch["outside/secret"], StringComparison.Ordinal)));
        ShouldGiveNothing(scratch, FileFormat.Vmdk);
    }

    [Theory]
    [InlineData(200)]
    [InlineData(1)]
    [InlineData(0)]
    public async Task A_parent_elsewhere_is_refused_wherever_the_text_stands(long textSector)
    {
        using var scratch = Room();
        await Tool.MustAgree("qemu-img", "create", "-q", "-f", "vmdk", scratch["images/disk"], "4M");
        var bytes = await File.ReadAllBytesAsync(scratch["images/disk"], TestContext.Current.CancellationToken);
        var parent = $"# Disk DescriptorFile\nparentCID=12345678\nparentFileNameHint=\"{scratch["outside/secret"]}\"\n\0";
        var text = Encoding.ASCII.GetBytes(parent);
        if (bytes.Length < (200 * Sector) + text.Length) Array.Resize(ref bytes, (200 * Sector) + text.Length);
        text.CopyTo(bytes, textSector == 0 ? Sector : textSector * Sector);
        if (textSector > 0) BinaryPrimitives.WriteInt64LittleEndian(bytes.AsSpan(28), textSector);
        await File.WriteAllBytesAsync(scratch["images/disk"], bytes, TestContext.Current.CancellationToken);
        ShouldGiveNothing(scratch, FileFormat.Vmdk);
    }

    [Theory]
    [InlineData("SECRET", "raw")]
    [InlineData("../outside/secret", "raw")]
    [InlineData("link", "raw")]
    [InlineData("folder-link/secret", "raw")]
    [InlineData("json:{\"driver\":\"raw\",\"file\":{\"driver\":\"file\",\"filename\":\"SECRET\"}}", "raw")]
    [InlineData("nbd://127.0.0.1/x", "raw")]
    [InlineData("nbd:unix:/run/socket", "raw")]
    [InlineData("fat:../outside", "raw")]
    [InlineData("file:SECRET", "raw")]
    [InlineData("beside", "qed")]
    [InlineData("beside", "bochs")]
    [InlineData("an external data file: its name is not read", "raw")]
    [InlineData("/dev/zero", "raw")]
    [InlineData("/dev/stdin", "raw")]
    public async Task What_a_qcow2_lies_over_is_refused_elsewhere(string name, string format)
    {
        using var scratch = Room();
        var backing = name.Replace("SECRET", scratch["outside/secret"], StringComparison.Ordinal);
        await Tool.MustAgree(
            "qemu-img",
            "create",
            "-q",
            "-f",
            "qcow2",
            "-u",
            "-b",
            backing,
            "-F",
            "raw",
            scratch["images/disk"],
            "4M");
        if (format != "raw") await Replace(scratch["images/disk"], "raw", format);
        ShouldGiveNothing(scratch, FileFormat.Qcow2);
    }

    [Theory]
    [InlineData("SECRET")]
    [InlineData("link")]
    [InlineData("")]
    public async Task The_data_of_a_qcow2_are_refused_elsewhere(string name)
    {
        using var scratch = Room();
        const string made = "0123456789012345678901234567890123456789";
        var image = scratch["images/disk"];
        await Tool.MustAgree(
            "qemu-img",
            "create",
            "-q",
            "-f",
            "qcow2",
            "-o",
            $"data_file={scratch["images/" + made]},data_file_raw=on",
            image,
            "4M");
        var bytes = await File.ReadAllBytesAsync(image, TestContext.Current.CancellationToken);
        var old = scratch["images/" + made];
        var at = bytes.AsSpan().IndexOf(Encoding.ASCII.GetBytes(old));
        var fresh = Encoding.ASCII.GetBytes(name.Replace("SECRET", scratch["outside/secret"], StringComparison.Ordinal));
        bytes.AsSpan(at, old.Length).Clear();
        fresh.CopyTo(bytes, at);
        BinaryPrimitives.WriteInt32BigEndian(bytes.AsSpan(at - sizeof(int)), fresh.Length);
        await File.WriteAllBytesAsync(image, bytes, TestContext.Current.CancellationToken);
        ShouldGiveNothing(scratch, FileFormat.Qcow2);
    }

    [Theory]
    [InlineData("vmdk", "")]
    [InlineData("vmdk", "monolithicFlat")]
    [InlineData("vmdk", "twoGbMaxExtentSparse")]
    [InlineData("vmdk", "twoGbMaxExtentFlat")]
    [InlineData("qcow2", "")]
    [InlineData("vdi", "")]
    public async Task What_others_make_is_served_and_written_in_all_its_forms(string format, string form)
    {
        using var scratch = Room();
        string[] more = form.Length > 0 ? ["-o", $"subformat={form}"] : [];
        await Tool.MustAgree(
            "qemu-img",
            ["convert", "-f", "raw", "-O", format, .. more, scratch["images/beside"], scratch["images/disk one.vmdk"]]);
        using (var disk = Usual.OpenForWriting(scratch["images/disk one.vmdk"]))
        {
            disk.ReadBytes(0, 4).ShouldBe([7, 7, 7, 7]);
            disk.Write(2 * MiB, new byte[] { 1, 2, 3, 4 });
            disk.Flush();
        }

        await Tool.MustAgree("qemu-img", "convert", "-O", "raw", scratch["images/disk one.vmdk"], scratch["after"]);
        (await File.ReadAllBytesAsync(
            scratch["after"],
            TestContext.Current.CancellationToken))[(2 * MiB)..((2 * MiB) + 4)].ShouldBe([1, 2, 3, 4]);
    }

    [Fact]
    public async Task A_file_of_the_chain_that_is_held_keeps_the_whole_from_being_written()
    {
        using var scratch = Room();
        await Tool.MustAgree("qemu-img", "create", "-q", "-f", "qcow2", "-b", "beside", "-F", "raw", scratch["images/disk"]);
        using (DiskFile.OpenForWriting(scratch["images/beside"]))
            Should.Throw<RefusedException>(() => Usual.OpenForWriting(scratch["images/disk"])).What.ShouldContain("in use");
        using (Usual.OpenForWriting(scratch["images/disk"]))
        {
            Should.Throw<RefusedException>(() => DiskFile.OpenForWriting(scratch["images/disk"])).What.ShouldContain("in use");
            Should.Throw<RefusedException>(() => DiskFile.OpenForWriting(scratch["images/beside"])).What.ShouldContain("in use");
        }

        DiskFile.OpenForWriting(scratch["images/disk"]).Dispose();
    }

    [Theory]
    [InlineData("raw", "qcow2")]
    [InlineData("qcow2", "qcow2")]
    [InlineData("vmdk", "vmdk")]
    public async Task What_a_snapshot_lies_over_is_not_written(string format, string over)
    {
        using var scratch = Room();
        await Tool.MustAgree("qemu-img", "convert", "-O", format, scratch["images/beside"], scratch["images/disk"]);
        Usual.OpenForWriting(scratch["images/disk"]).Dispose();
        await Tool.MustAgree("qemu-img", "create", "-q", "-f", over, "-b", "disk", "-F", format, scratch["images/disk.before"]);
        Should.Throw<RefusedException>(() => Usual.OpenForWriting(scratch["images/disk"])).What.ShouldContain("is what ");
        Usual.OpenForWriting(scratch["images/disk.before"]).Dispose();
    }

    [Fact]
    public async Task A_form_that_can_only_be_read_is_refused_before_anything_is_written()
    {
        using var scratch = Room();
        await Tool.MustAgree(
            "qemu-img",
            "convert",
            "-O",
            "vmdk",
            "-o",
            "subformat=streamOptimized",
            scratch["images/beside"],
            scratch["images/disk"]);
        Usual.Open(scratch["images/disk"]).Dispose();
        Should.Throw<RefusedException>(() => Usual.OpenForWriting(scratch["images/disk"])).Why.ShouldContain("packed");
    }

    /// <summary>A folder with images, and one outside of it with what nobody may see.</summary>
    private static Scratch Room()
    {
        var scratch = new Scratch();
        Directory.CreateDirectory(scratch["images"]);
        Directory.CreateDirectory(scratch["outside"]);
        var secret = new byte[4 * MiB];
        for (var at = 0; at + Secret.Length < secret.Length; at += Sector) Secret.CopyTo(secret, at);
        File.WriteAllBytes(scratch["outside/secret"], secret);
        var beside = new byte[4 * MiB];
        beside.AsSpan().Fill(7);
        File.WriteAllBytes(scratch["images/beside"], beside);
        File.WriteAllBytes(scratch["images/an external data file: its name is not read"], beside);
        File.CreateSymbolicLink(scratch["images/link"], "../outside/secret");
        File.CreateSymbolicLink(scratch["images/folder-link"], "../outside");
        return scratch;
    }

    private static void WriteText(Scratch scratch, string lines) => File.WriteAllText(
        scratch["images/disk"],
        "# Disk DescriptorFile\nversion=1\nCID=fffffffe\n"
            + (lines.Contains("parentCID", StringComparison.Ordinal) ? "" : "parentCID=ffffffff\n")
            + "createType=\"twoGbMaxExtentFlat\"\n"
            + lines.Replace("SECRET", scratch["outside/secret"], StringComparison.Ordinal)
            + "\nddb.adapterType = \"ide\"\n");

    /// <summary>A file that holds blocks, as its mark says, with a text in it.</summary>
    private static byte[] Sparse(long capacity, long textSector, string text)
    {
        var bytes = new byte[(textSector + 64) * Sector];
        "KDMV"u8.CopyTo(bytes);
        BinaryPrimitives.WriteInt32LittleEndian(bytes.AsSpan(4), 1);
        BinaryPrimitives.WriteInt64LittleEndian(bytes.AsSpan(12), capacity);
        BinaryPrimitives.WriteInt64LittleEndian(bytes.AsSpan(28), textSector);
        BinaryPrimitives.WriteInt64LittleEndian(bytes.AsSpan(36), 20);
        Encoding.ASCII.GetBytes("# Disk DescriptorFile\ncreateType=\"monolithicFlat\"\nparentCID=ffffffff\n" + text + "\n\0")
            .CopyTo(bytes, textSector * Sector);
        return bytes;
    }

    private static async Task Replace(string path, string old, string fresh)
    {
        var bytes = await File.ReadAllBytesAsync(path);
        var mark = new byte[] { 0xE2, 0x79, 0x2A, 0xCA };
        var at = bytes.AsSpan().IndexOf(mark) + mark.Length;
        BinaryPrimitives.WriteInt32BigEndian(bytes.AsSpan(at), fresh.Length);
        bytes.AsSpan(at + sizeof(int), 8).Clear();
        Encoding.ASCII.GetBytes(fresh).CopyTo(bytes, at + sizeof(int));
        old.Length.ShouldBeLessThanOrEqualTo(8);
        await File.WriteAllBytesAsync(path, bytes);
    }

    /// <summary>It is refused, for looking and for writing, and the other file stays as it was.</summary>
    private static void ShouldGiveNothing(Scratch scratch, FileFormat format)
    {
        var before = File.ReadAllBytes(scratch["outside/secret"]);
        using (var file = DiskFile.Open(scratch["images/disk"])) FileFormats.Of(file).ShouldBe(format);
        Should.Throw<KeelException>(() => Usual.Open(scratch["images/disk"]));
        Should.Throw<KeelException>(() => Usual.OpenForWriting(scratch["images/disk"]));
        File.ReadAllBytes(scratch["outside/secret"]).AsSpan().SequenceEqual(before).ShouldBeTrue();
    }
}

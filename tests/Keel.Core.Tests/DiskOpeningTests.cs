using System.Buffers.Binary;
using System.Diagnostics;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Disks.Virtual;
using Keel.Core.Errors;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// Disks are opened by what they are: chains of differencing files, images that a helper serves, and addresses.
/// </summary>
public sealed class DiskOpeningTests
{
    private const int MiB = 1024 * 1024, Sector = 512;
    private static readonly DiskOpening Usual = new(DiskTerms.Usual);

    [Theory]
    [InlineData("qcow2", FileFormat.Qcow2)]
    [InlineData("vmdk", FileFormat.Vmdk)]
    [InlineData("vdi", FileFormat.Vdi)]
    [InlineData("vhdx", FileFormat.Vhdx)]
    [InlineData("vpc", FileFormat.Vhd)]
    [InlineData("raw", FileFormat.Raw)]
    public async Task The_name_of_a_file_says_nothing_about_its_format(string format, FileFormat expected)
    {
        using var scratch = new Scratch();
        var image = await Made(scratch, format, "misleading.qcow2");
        using (var file = DiskFile.Open(image)) FileFormats.Of(file).ShouldBe(expected);
        using var disk = Usual.Open(image);
        disk.ReadBytes(MiB, Sector).ShouldBe(Content()[MiB..(MiB + Sector)]);
    }

    [Theory]
    [InlineData("qcow2")]
    [InlineData("vmdk")]
    [InlineData("vdi")]
    public async Task What_a_helper_serves_is_written_through_it_while_it_is_looked_at(string format)
    {
        using var scratch = new Scratch();
        var image = await Made(scratch, format, "disk");
        using var looking = Usual.Open(image);
        looking.Form.ShouldBe(DiskForm.Served);
        using (var writing = Usual.OpenForWriting(image))
        {
            writing.Write(3 * MiB, new byte[] { 1, 2, 3 });
            writing.Flush();
            writing.ReadBytes(3 * MiB, 3).ShouldBe([1, 2, 3]);
        }

        await Tool.MustAgree("qemu-img", "convert", "-f", format, "-O", "raw", image, scratch["after"]);
        var expected = Content();
        new byte[] { 1, 2, 3 }.CopyTo(expected, 3 * MiB);
        (await File.ReadAllBytesAsync(scratch["after"])).AsSpan().SequenceEqual(expected).ShouldBeTrue();
    }

    [Fact]
    public async Task An_image_that_a_machine_runs_from_is_not_written()
    {
        using var scratch = new Scratch();
        var image = await Made(scratch, "qcow2", "disk");
        using var machine = Process.Start(new ProcessStartInfo(
            "qemu-system-x86_64",
            ["-S", "-nodefaults", "-display", "none", "-drive", $"file={image},format=qcow2,if=ide"])
        { UseShellExecute = false, RedirectStandardError = true })!;
        try
        {
            await Task.Delay(1500);
            Should.Throw<RefusedException>(() => Usual.OpenForWriting(image)).What.ShouldContain("in use");
        }
        finally
        {
            machine.Kill();
            await machine.WaitForExitAsync();
        }
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task A_disk_at_an_address_is_read_and_written(bool isLocal)
    {
        using var scratch = new Scratch();
        var image = await Made(scratch, "raw", "disk");
        var port = 20_000 + Random.Shared.Next(20_000);
        string[] place = isLocal ? [$"--socket={scratch["socket"]}"] : ["--bind=127.0.0.1", $"--port={port}"];
        var address = isLocal ? $"nbd+unix:///quay%20desk?socket={scratch["socket"]}" : $"nbd://127.0.0.1:{port}/quay%20desk";
        using var server = Process.Start(
            new ProcessStartInfo("qemu-nbd", [.. place, "--format=raw", "--export-name=quay desk", "--persistent", image]))!;
        try
        {
            await Task.Delay(1000);
            using (var disk = Usual.OpenForWriting(address))
            {
                disk.LengthBytes.ShouldBe(Content().Length);
                disk.ReadBytes(MiB - 3, 3 * MiB).AsSpan().SequenceEqual(Content().AsSpan(MiB - 3, 3 * MiB)).ShouldBeTrue();
                disk.Write(5 * MiB, new byte[2 * MiB]);
                disk.Flush();
                Should.Throw<UnreadableException>(() => disk.Read(disk.LengthBytes - 1, new byte[2]));
            }

            (await File.ReadAllBytesAsync(image)).AsSpan(5 * MiB, 2 * MiB).ContainsAnyExcept((byte)0).ShouldBeFalse();
            Should.Throw<UnreadableException>(() => Usual.Open(address.Replace("quay", "pier", StringComparison.Ordinal)))
                .What.ShouldContain("serves no disk \"pier desk\"");
        }
        finally
        {
            server.Kill();
            await server.WaitForExitAsync();
        }

        Should.Throw<UnreadableException>(() => Usual.Open(address)).What.ShouldContain("can't be reached");
    }

    [Theory]
    [InlineData("nbd://")]
    [InlineData("nbd+unix:///disk")]
    public void An_address_that_lacks_something_is_wrong(string address) =>
        Should.Throw<WrongUsageException>(() => Usual.Open(address));

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_chain_is_opened_whole_and_only_the_youngest_is_written(bool isVhdx)
    {
        using var scratch = new Scratch();
        string[] names = ["oldest", "middle", "youngest"];
        var chain = Chain(scratch, isVhdx, names, parentOf: name => $@".\{name.ToUpperInvariant()}");
        var before = chain.Take(2).Select(File.ReadAllBytes).ToList();
        using (var disk = Usual.OpenForWriting(chain[^1]))
        {
            disk.ReadBytes(0, Sector).ShouldBe(Filled(1));
            disk.ReadBytes(MiB, Sector).ShouldBe(Filled(2));
            disk.ReadBytes(2 * MiB, Sector).ShouldBe(Filled(3));
            disk.Write(0, Filled(9));
        }

        using (var disk = Usual.Open(chain[^1]))
        {
            disk.ReadBytes(0, Sector).ShouldBe(Filled(9));
            disk.ReadBytes(MiB, Sector).ShouldBe(Filled(2));
        }

        File.ReadAllBytes(chain[0]).AsSpan().SequenceEqual(before[0]).ShouldBeTrue();
        File.ReadAllBytes(chain[1]).AsSpan().SequenceEqual(before[1]).ShouldBeTrue();
        File.Delete(chain[0]);
        Should.Throw<UnreadableException>(() => Usual.Open(chain[^1])).Todo.ShouldContain("Put that file into the folder");
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task A_chain_is_to_another_reader_the_same_disk(bool isVhdx)
    {
        using var scratch = new Scratch();
        var chain = Chain(scratch, isVhdx, names: ["old.vhdx", "young.vhdx"], parentOf: name => $@".\{name}");
        const string script = """
            import pyvhdi, sys
            parent, child = pyvhdi.file(), pyvhdi.file()
            parent.open(sys.argv[1])
            child.open(sys.argv[2])
            child.set_parent(parent)
            open(sys.argv[3], "wb").write(child.read_buffer_at_offset(child.get_media_size(), 0))
            """;
        await Tool.MustAgree("/usr/bin/python3", "-c", script, chain[0], chain[1], scratch["read"]);
        using var disk = Usual.Open(chain[1]);
        (await File.ReadAllBytesAsync(scratch["read"])).ShouldHold(disk.ReadBytes(0, (int)disk.LengthBytes));
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_parent_that_was_written_since_is_not_taken(bool isVhdx)
    {
        using var scratch = new Scratch();
        var chain = Chain(scratch, isVhdx, names: ["old", "young"], parentOf: name => $@".\{name}");
        if (isVhdx)
        {
            using var parent = Usual.OpenForWriting(chain[0]);
            parent.Write(0, Filled(7));
        }
        else
        {
            File.Delete(chain[0]);
            using var another = Empty(chain[0]);
            VhdMaking.Make(another, 9 * MiB, Guid.NewGuid());
        }

        Should.Throw<UnreadableException>(() => Usual.Open(chain[1])).What.ShouldContain("is not the disk");
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_parent_in_another_folder_is_opened_only_where_that_was_agreed_to(bool isVhdx)
    {
        using var scratch = new Scratch();
        Directory.CreateDirectory(scratch["elsewhere"]);
        var chain = Chain(scratch, isVhdx, names: ["elsewhere/old", "young"], parentOf: _ => @".\elsewhere\old");
        Should.Throw<RefusedException>(() => Usual.Open(chain[1])).Todo.ShouldContain("--parents");
        var asked = new List<string>();
        using var disk = new DiskOpening(DiskTerms.Usual with { MayOpen = Agree }).Open(chain[1]);
        disk.ReadBytes(0, Sector).ShouldBe(Filled(1));
        asked.ShouldBe([chain[0]]);

        bool Agree(string path)
        {
            asked.Add(path);
            return true;
        }
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_file_that_another_differs_from_is_not_written(bool isVhdx)
    {
        using var scratch = new Scratch();
        var chain = Chain(scratch, isVhdx, names: ["old.vhdx", "young.avhdx"], parentOf: name => $@".\{name}");
        var before = File.ReadAllBytes(chain[0]);
        Should.Throw<RefusedException>(() => Usual.OpenForWriting(chain[0])).Todo.ShouldContain("the youngest file");
        File.ReadAllBytes(chain[0]).AsSpan().SequenceEqual(before).ShouldBeTrue();
        Directory.CreateDirectory(scratch["elsewhere"]);
        File.Move(chain[1], Path.Combine(scratch["elsewhere"], "young.avhdx"));
        using var disk = Usual.OpenForWriting(chain[0]);
        disk.Write(0, Filled(5));
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_parent_that_another_program_writes_keeps_its_child_from_being_written(bool isVhdx)
    {
        using var scratch = new Scratch();
        var paths = Chain(scratch, isVhdx, ["first", "second"], name => $@".\{name}");
        using (DiskFile.OpenForWriting(paths[0]))
            Should.Throw<RefusedException>(() => Usual.OpenForWriting(paths[1])).What.ShouldContain("in use");
        using (Usual.OpenForWriting(paths[1]))
            Should.Throw<RefusedException>(() => DiskFile.OpenForWriting(paths[0])).What.ShouldContain("in use");
    }

    [Fact]
    public void What_can_never_be_written_is_refused_when_it_is_opened_for_writing()
    {
        using var scratch = new Scratch();
        using (var file = Empty(scratch["saved"])) VhdMaking.Make(file, 9 * MiB, Guid.NewGuid(), parent: null);
        var bytes = File.ReadAllBytes(scratch["saved"]);
        foreach (var footer in (int[])[0, bytes.Length - Sector])
        {
            const int savedAt = 84, sumAt = 64;
            bytes[footer + savedAt] = 1;
            var sum = VhdChecksum.Of(bytes.AsSpan(footer, Sector), sumAt);
            BinaryPrimitives.WriteUInt32BigEndian(bytes.AsSpan(footer + sumAt), sum);
        }

        File.WriteAllBytes(scratch["saved"], bytes);
        Usual.Open(scratch["saved"]).Dispose();
        Should.Throw<RefusedException>(() => Usual.OpenForWriting(scratch["saved"])).What.ShouldContain("saved with its memory");
    }

    [Fact]
    public void A_disk_that_differs_from_itself_is_told()
    {
        using var scratch = new Scratch();
        var id = Guid.NewGuid();
        using (var file = Empty(scratch["loop"])) VhdMaking.Make(file, 9 * MiB, id, new ParentClaim([@".\loop"], id));
        Should.Throw<UnreadableException>(() => Usual.Open(scratch["loop"])).Why.ShouldContain("itself");
    }

    [Fact]
    public async Task A_backing_file_beside_the_image_is_served_with_it()
    {
        using var scratch = new Scratch();
        await Made(scratch, "raw", "base.img");
        await Tool.MustAgree("qemu-img", "create", "-q", "-f", "qcow2", "-b", "base.img", "-F", "raw", scratch["disk"]);
        using var disk = Usual.Open(scratch["disk"]);
        disk.ReadBytes(MiB, Sector).ShouldBe(Content()[MiB..(MiB + Sector)]);
    }

    [Fact]
    public async Task What_the_helper_cannot_open_is_told_in_its_words()
    {
        using var scratch = new Scratch();
        var image = await Made(scratch, "vdi", "disk");
        var bytes = await File.ReadAllBytesAsync(image);
        const int versionAt = 0x46;
        bytes[versionAt] = 9;
        await File.WriteAllBytesAsync(scratch["broken"], bytes);
        var error = Should.Throw<UnreadableException>(() => Usual.Open(scratch["broken"]));
        error.What.ShouldContain("can't be opened");
        error.Why.ShouldContain("The helper says: ");
    }

    private static byte[] Content()
    {
        var content = new byte[9 * MiB];
        new Random(5).NextBytes(content.AsSpan(MiB, 3 * MiB));
        return content;
    }

    private static async Task<string> Made(Scratch scratch, string format, string name)
    {
        await File.WriteAllBytesAsync(scratch["content"], Content());
        await Tool.MustAgree("qemu-img", "convert", "-f", "raw", "-O", format, scratch["content"], scratch[name]);
        return scratch[name];
    }

    private static DiskFile Empty(string path)
    {
        File.WriteAllBytes(path, []);
        return DiskFile.OpenForWriting(path);
    }

    /// <summary>Files of which each differs from the one before; each has a sector of its own, filled with its number.</summary>
    private static List<string> Chain(Scratch scratch, bool isVhdx, string[] names, Func<string, string> parentOf)
    {
        var paths = new List<string>();
        var last = Guid.Empty;
        foreach (var (name, number) in names.Select((name, number) => (name, number)))
        {
            var path = scratch[name];
            var claim = number == 0 ? null : new ParentClaim([parentOf(Path.GetFileName(names[number - 1]))], last);
            var id = Guid.NewGuid();
            using (var file = Empty(path))
            {
                if (isVhdx) VhdxMaking.Make(file, 9 * MiB, parent: claim);
                else VhdMaking.Make(file, 9 * MiB, id, claim);
            }

            using (var disk = new DiskOpening(DiskTerms.Usual with { MayOpen = _ => true }).OpenForWriting(path))
                disk.Write(number * MiB, Filled((byte)(number + 1)));
            using (var file = DiskFile.Open(path)) last = isVhdx ? VhdxHeaders.Read(file).Current.DataWriteId : id;
            paths.Add(path);
        }

        return paths;
    }

    private static byte[] Filled(byte value)
    {
        var bytes = new byte[Sector];
        bytes.AsSpan().Fill(value);
        return bytes;
    }
}

using System.Buffers.Binary;
using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Disks.Virtual;
using Keel.Core.Errors;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// Virtual disks read and written through their blocks are the disks that other programs see in the same files.
/// </summary>
public sealed class VirtualDiskTests
{
    private const int MiB = 1024 * 1024, Sector = 512;
    private static readonly Guid Parent = new("B4AC0A7E-0000-4000-8000-00000000F177");

    /// <summary>What of that which was never flushed has reached the file: nothing, all of it, every other call.</summary>
    private static readonly Func<int, bool>[] Readings =
        [_ => false, _ => true, number => number % 2 == 0, number => number % 2 == 1];

    private static readonly Gen<(int Sector, byte[] Bytes)[]> Writes = Gen
        .Select(Gen.Int[0, (9 * MiB / Sector) - 64], Gen.Int[1, 64], Gen.Byte)
        .Select((sector, count, fill) => (sector, Filled(count * Sector, fill)))
        .Array[1, 12];

    [Theory]
    [InlineData("vpc", "subformat=dynamic,force_size", "vpc")]
    [InlineData("vpc", "subformat=fixed,force_size", "vpc")]
    [InlineData("vhdx", "subformat=dynamic,block_size=1M", "vhdx")]
    [InlineData("vhdx", "subformat=fixed", "vhdx")]
    [InlineData("vhdx", "subformat=dynamic,block_size=32M", "vhdx")]
    public async Task What_others_made_is_read_and_written_as_they_do(string format, string options, string ending)
    {
        using var scratch = new Scratch();
        var content = new byte[9 * MiB];
        new Random(7).NextBytes(content.AsSpan(2 * MiB, 3 * MiB));
        await File.WriteAllBytesAsync(scratch["raw"], content);
        var image = scratch[$"disk.{ending}"];
        await Tool.MustAgree("qemu-img", "convert", "-f", "raw", "-O", format, "-o", options, scratch["raw"], image);
        var opening = new DiskOpening(DiskTerms.Usual);

        using (var disk = opening.Open(image))
        {
            disk.LengthBytes.ShouldBe(content.Length);
            disk.ReadBytes(0, content.Length).AsSpan().SequenceEqual(content).ShouldBeTrue();
        }

        using (var disk = opening.OpenForWriting(image))
        {
            foreach (var (at, bytes) in SomeWrites(content.Length))
            {
                disk.Write(at, bytes);
                bytes.CopyTo(content, at);
            }

            disk.Flush();
            disk.ForgetCached();
            var back = new byte[content.Length];
            disk.ReadBack(0, back);
            back.AsSpan().SequenceEqual(content).ShouldBeTrue();
        }

        await File.WriteAllBytesAsync(scratch["raw"], content);
        await Tool.MustAgree("qemu-img", "compare", "-f", "raw", "-F", format, scratch["raw"], image);
        if (format == "vhdx") (await Tool.MustAgree("qemu-img", "check", "-f", format, image)).ShouldContain("No errors");
    }

    [Theory]
    [InlineData("vpc")]
    [InlineData("vhdx")]
    public async Task What_keel_makes_is_read_by_others(string format)
    {
        using var scratch = new Scratch();
        var image = scratch["disk"];
        await File.WriteAllBytesAsync(image, []);
        var content = new byte[40 * MiB];
        using (var file = DiskFile.OpenForWriting(image))
        {
            if (format == "vpc") VhdMaking.Make(file, content.Length, Guid.NewGuid());
            else VhdxMaking.Make(file, content.Length);
        }

        using (var disk = new DiskOpening(DiskTerms.Usual).OpenForWriting(image))
        {
            foreach (var (at, bytes) in SomeWrites(content.Length))
            {
                disk.Write(at, bytes);
                bytes.CopyTo(content, at);
            }
        }

        // by the size that the footer says, as Windows has it, and not by the rounded geometry
        var size = format == "vpc" ? ",force_size_calc=current_size" : "";
        var source = $"driver={format}{size},file.driver=file,file.filename={image}";
        await Tool.MustAgree("qemu-img", "convert", "--image-opts", "-O", "raw", source, scratch["raw"]);
        (await File.ReadAllBytesAsync(scratch["raw"])).AsSpan(0, content.Length).SequenceEqual(content).ShouldBeTrue();
        if (format == "vhdx") (await Tool.MustAgree("qemu-img", "check", "-f", format, image)).ShouldContain("No errors");
    }

    /// <summary>Any writes, into any of the four kinds of disks that grow, against the same writes into plain bytes.</summary>
    [Theory]
    [InlineData(false, false)]
    [InlineData(false, true)]
    [InlineData(true, false)]
    [InlineData(true, true)]
    public void Whatever_is_written_is_read(bool isVhdx, bool hasParent) => Writes.Sample(
        writes =>
        {
            var (file, parent) = Made(isVhdx, hasParent);
            var plain = parent?.ReadBytes(0, 9 * MiB) ?? new byte[9 * MiB];
            var disk = Opened(file, isVhdx, parent);
            foreach (var (sector, bytes) in writes)
            {
                disk.Write((long)sector * Sector, bytes);
                bytes.CopyTo(plain, sector * Sector);
            }

            disk.ReadBytes(0, plain.Length).AsSpan().SequenceEqual(plain).ShouldBeTrue();
            var again = Opened(new MemoryFile(file.ToBytes()), isVhdx, parent);
            again.ReadBytes(0, plain.Length).AsSpan().SequenceEqual(plain).ShouldBeTrue();
        },
        iter: 15,
        threads: 1);

    /// <summary>
    /// The power goes behind each call in turn: every sector is then the old one or the new one, and those written before are
    /// new.
    /// </summary>
    [Theory]
    [InlineData(false, false)]
    [InlineData(false, true)]
    [InlineData(true, false)]
    [InlineData(true, true)]
    public void A_power_cut_at_any_call_leaves_old_or_new_sectors(bool isVhdx, bool hasParent)
    {
        var (file, parent) = Made(isVhdx, hasParent);
        var disk = Opened(file, isVhdx, parent);
        disk.Write(3 * MiB, Filled(8 * Sector, 0x11));
        disk.Flush();
        var (before, old) = (file.ToBytes(), disk.ReadBytes(0, 9 * MiB));
        file.ForgetCalls();
        disk.Write(3 * MiB, Filled(4 * Sector, 0x22));
        disk.Write((5 * MiB) - Sector, Filled(6 * Sector, 0x33));
        disk.Write(8 * MiB, Filled(Sector, 0x44));
        var now = disk.ReadBytes(0, 9 * MiB);
        for (var count = 0; count <= file.Calls.Count; count++)
        {
            foreach (var reached in Readings)
            {
                var left = new MemoryFile(MemoryFile.After(before, file.Calls, count, reached));
                var read = Opened(left, isVhdx, parent).ReadBytes(0, 9 * MiB);
                for (var at = 0; at < read.Length; at += Sector)
                {
                    var sector = read.AsSpan(at, Sector);
                    if (sector.SequenceEqual(old.AsSpan(at, Sector)) || sector.SequenceEqual(now.AsSpan(at, Sector))) continue;
                    throw new InvalidOperationException($"Cut behind call {count}: sector {at / Sector} is neither old nor new.");
                }
            }
        }
    }

    [Fact]
    public void A_log_that_was_left_is_replayed_in_memory_and_in_the_file_before_the_first_write()
    {
        var (file, _) = Made(isVhdx: true, hasParent: false);
        var disk = Opened(file, isVhdx: true, parent: null);
        var before = file.ToBytes();
        file.ForgetCalls();
        disk.Write(MiB, Filled(Sector, 0x77));
        var last = Enumerable.Range(0, file.Calls.Count).Where(number => file.Calls[number].IsFlush).ToList();
        var logged = MemoryFile.After(before, file.Calls, last[^3] + 1, _ => true);
        var left = new MemoryFile(logged);
        VhdxHeaders.Read(left).Current.LogId.ShouldNotBe(Guid.Empty, "the log counts at this moment");

        var looked = Opened(left, isVhdx: true, parent: null);
        looked.ReadBytes(MiB, Sector).ShouldBe(Filled(Sector, 0x77));
        left.ToBytes().AsSpan().SequenceEqual(logged).ShouldBeTrue("looking writes nothing");

        looked.Write(2 * MiB, Filled(Sector, 0x78));
        VhdxHeaders.Read(left).Current.LogId.ShouldBe(Guid.Empty);
        var again = Opened(new MemoryFile(left.ToBytes()), isVhdx: true, parent: null);
        again.ReadBytes(MiB, Sector).ShouldBe(Filled(Sector, 0x77));
        again.ReadBytes(2 * MiB, Sector).ShouldBe(Filled(Sector, 0x78));
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void Hostile_bytes_are_survived(bool isVhdx) => Gen
        .Select(Gen.Int[0, 4 * MiB], Gen.Byte.Array[1, 32], Gen.Bool)
        .Array[1, 6]
        .Sample(
            changes =>
            {
                var (file, _) = Made(isVhdx, hasParent: false);
                Opened(file, isVhdx, parent: null).Write(MiB, Filled(3 * MiB, 0x55));
                var bytes = file.ToBytes();
                foreach (var (place, change, isHead) in changes)
                    change.CopyTo(bytes, Math.Min(isHead ? place % (400 * 1024) : place, bytes.Length - change.Length));
                try
                {
                    var disk = Opened(new MemoryFile(bytes), isVhdx, parent: null);
                    if (disk.LengthBytes > 9 * MiB) return;
                    disk.ReadBytes(0, (int)disk.LengthBytes);
                    disk.Write(0, Filled(Sector, 1));
                }
                catch (KeelException)
                {
                    // said, not crashed
                }
            },
            iter: 60,
            threads: 1);

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void Cut_short_it_is_said_so(bool isVhdx)
    {
        var (file, _) = Made(isVhdx, hasParent: false);
        Opened(file, isVhdx, parent: null).Write(MiB, Filled(3 * MiB, 0x55));
        var half = file.ToBytes()[..((int)file.LengthBytes - MiB)];
        var error = Should.Throw<UnreadableException>(() =>
        {
            var disk = Opened(new MemoryFile(half), isVhdx, parent: null);
            disk.ReadBytes(0, 9 * MiB);
        });
        error.Why.ShouldContain("cut short");
    }

    [Fact]
    public void Two_blocks_in_one_place_are_read_and_never_written()
    {
        var (file, _) = Made(isVhdx: false, hasParent: false);
        Opened(file, isVhdx: false, parent: null).Write(0, Filled(3 * MiB, 1));
        var bytes = file.ToBytes();
        bytes.AsSpan(1536, sizeof(uint)).CopyTo(bytes.AsSpan(1540));
        var disk = Opened(new MemoryFile(bytes), isVhdx: false, parent: null);
        disk.ReadBytes(2 * MiB, Sector).ShouldBe(Filled(Sector, 1));
        Should.Throw<UnreadableException>(() => disk.Write(0, Filled(Sector, 2))).Why.ShouldContain("one place");
    }

    [Fact]
    public void A_table_that_names_more_blocks_than_there_can_be_is_refused_soon()
    {
        const int tableBytes = 64 * MiB;
        var file = new MemoryFile([]);
        VhdMaking.Make(file, (tableBytes / sizeof(uint)) * 512L, Guid.NewGuid(), blockBytes: 512);
        file.Write(1536, new byte[tableBytes]);
        var disk = Opened(file, isVhdx: false, parent: null);
        Should.Throw<UnreadableException>(disk.CheckTable).Why.ShouldContain("more blocks");
    }

    [Fact]
    public void A_machine_saved_with_its_memory_is_left_alone()
    {
        var (file, _) = Made(isVhdx: false, hasParent: false);
        var bytes = file.ToBytes();
        foreach (var at in new[] { 0, bytes.Length - Sector })
        {
            var footer = bytes.AsSpan(at, Sector);
            footer[84] = 1;
            BinaryPrimitives.WriteUInt32BigEndian(footer[64..], VhdChecksum.Of(footer, 64));
        }

        var disk = Opened(new MemoryFile(bytes), isVhdx: false, parent: null);
        Should.Throw<RefusedException>(() => disk.Write(0, Filled(Sector, 2))).What.ShouldContain("saved with its memory");
    }

    [Fact]
    public void A_footer_that_is_gone_is_taken_from_the_copy_and_comes_back_with_the_next_block()
    {
        var (file, _) = Made(isVhdx: false, hasParent: false);
        Opened(file, isVhdx: false, parent: null).Write(0, Filled(Sector, 1));
        var bytes = file.ToBytes();
        bytes.AsSpan(bytes.Length - Sector).Clear();
        var cut = new MemoryFile(bytes);
        var disk = Opened(cut, isVhdx: false, parent: null);
        disk.ReadBytes(0, Sector).ShouldBe(Filled(Sector, 1));
        disk.Write(5 * MiB, Filled(Sector, 3));
        VhdContents.Read(cut).FooterAt.ShouldBe(cut.LengthBytes - Sector);
    }

    private static IEnumerable<(int At, byte[] Bytes)> SomeWrites(int length)
    {
        yield return (0, Filled(Sector, 0xA1));
        yield return ((2 * MiB) - Sector, Filled(4 * Sector, 0xA2));
        yield return (6 * MiB, Filled(MiB, 0xA3));
        yield return (length - Sector, Filled(Sector, 0xA4));
        yield return ((4 * MiB) + 100, Filled(700, 0xA5));
    }

    private static byte[] Filled(int count, byte value)
    {
        var bytes = new byte[count];
        bytes.AsSpan().Fill(value);
        return bytes;
    }

    private static (MemoryFile File, IReadableBlocks? Parent) Made(bool isVhdx, bool hasParent)
    {
        var file = new MemoryFile([]);
        var claim = hasParent ? new ParentClaim([@".\quay.vhd"], Parent) : null;
        if (isVhdx) VhdxMaking.Make(file, 9 * MiB, blockBytes: MiB, parent: claim);
        else VhdMaking.Make(file, 9 * MiB, Guid.NewGuid(), claim);
        if (!hasParent) return (file, null);
        var bytes = new byte[9 * MiB];
        new Random(3).NextBytes(bytes);
        return (file, new MemoryBlocks(bytes));
    }

    private static IVirtualDisk Opened(MemoryFile file, bool isVhdx, IReadableBlocks? parent) =>
        isVhdx ? VhdxDisk.Open(file, _ => parent!) : new VhdDisk(file, VhdContents.Read(file), parent);
}

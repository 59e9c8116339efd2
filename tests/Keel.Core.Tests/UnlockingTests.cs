using System.Security.Cryptography;
using System.Text;
using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Keys;
using Keel.Core.Volumes;
using Keel.Core.Volumes.BitLocker;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Volumes that Windows encrypted, opened with their keys; sums and other people's programs are the judges.</summary>
public sealed class UnlockingTests
{
    private const int PieceBytes = 1024 * 1024;

    public static TheoryData<string, VolumeKeyKind> Openings()
    {
        var rows = new TheoryData<string, VolumeKeyKind>();
        foreach (var volume in WindowsVolume.All.Where(volume => volume.Sum is not null))
        {
            rows.Add(volume.Name, VolumeKeyKind.Recovery);
            if (volume.Password is not null) rows.Add(volume.Name, VolumeKeyKind.Password);
            if (volume.StartupKey is not null) rows.Add(volume.Name, VolumeKeyKind.Startup);
        }

        return rows;
    }

    [Theory]
    [MemberData(nameof(Openings))]
    public void Each_key_opens_it_to_what_Windows_saw(string name, VolumeKeyKind kind)
    {
        if (!Rotation.IsToday($"{name} {kind}", 3)) return;
        using var scratch = new Scratch();
        using var file = WindowsVolume.Open(scratch, name);
        using var ring = new KeyRing();
        ring.Add(KeyOf(WindowsVolume.Of(name), kind));
        var (blocks, opened) = VolumeUnlocking.Open(new Overlay(file), "volume 1", ring).ShouldNotBeNull();
        opened.By.ShouldBe(kind);
        SumOf(blocks).ShouldBe(WindowsVolume.Of(name).Sum);
        ring.Unused.ShouldBeEmpty();
    }

    [Fact]
    public void A_suspended_one_opens_by_itself()
    {
        using var practice = new Practice("encrypted-suspended");
        practice.Windows.IsUnlocked.ShouldBeTrue();
        practice.Windows.OpenedBy.ShouldBeNull();
        practice.Windows.OpenedProtector!.Kind.ShouldBe(ProtectorKind.Clear);
        practice.Machine.LockedVolumes.ShouldBeEmpty();
    }

    [Theory]
    [InlineData("clearkey-aes-cbc-128")]
    [InlineData("aes-xts-128-eow")]
    public void One_that_encrypts_what_is_written_is_left(string name)
    {
        using var scratch = new Scratch();
        using var ring = new KeyRing();
        ring.Add(KeyOf(WindowsVolume.Of(name), VolumeKeyKind.Recovery));
        using var volume = WindowsVolume.Open(scratch, name);
        EncryptionReader.Read(volume).ShouldNotBeNull().IsWhole.ShouldBeFalse();
        VolumeUnlocking.Open(new Overlay(volume), "volume 1", ring).ShouldBeNull();
    }

    [Fact]
    public void A_key_of_another_volume_opens_nothing()
    {
        using var scratch = new Scratch();
        using var file = WindowsVolume.Open(scratch, "aes-xts-128");
        using var ring = new KeyRing();
        ring.Add(KeyOf(WindowsVolume.Of("aes-xts-256"), VolumeKeyKind.Recovery));
        VolumeUnlocking.Open(new Overlay(file), "volume 1", ring).ShouldBeNull();
        ring.Unused.Count.ShouldBe(1);
        ring.Add(KeyOf(WindowsVolume.Of("aes-xts-128"), VolumeKeyKind.Recovery));
        VolumeUnlocking.Open(new Overlay(file), "volume 1", ring).ShouldNotBeNull();
    }

    /// <summary>
    /// What is written, others read: whole sectors, parts of them, the moved beginning, the place behind the metadata.
    /// </summary>
    [Theory]
    [InlineData("aes-xts-128")]
    [InlineData("aes-xts-256")]
    [InlineData("aes-xts-128-4k")]
    [InlineData("aes-cbc-128")]
    [InlineData("aes-cbc-256")]
    [InlineData("aes-cbc-elephant-128")]
    [InlineData("aes-cbc-elephant-256")]
    public async Task What_is_written_others_read(string name)
    {
        if (!Rotation.IsToday(name, 3)) return;
        using var scratch = new Scratch();
        var known = WindowsVolume.Of(name);
        var path = WindowsVolume.Write(scratch, name);
        using (var file = DiskFile.OpenForWriting(path))
        using (var ring = new KeyRing())
        {
            ring.Add(KeyOf(known, VolumeKeyKind.Password));
            var (blocks, _) = VolumeUnlocking.Open(file, "volume 1", ring).ShouldNotBeNull();
            foreach (var (at, length) in Places(blocks)) blocks.Write(at, Pattern(at, length));
        }

        await (name.Contains("elephant", StringComparison.Ordinal)
            ? OtherDecryptor.Mounted(scratch, path, "-p", known.Password!)
            : OtherDecryptor.Decrypt(scratch, path, known.Password!));
        using var plain = DiskFile.Open(scratch["plain"]);
        foreach (var (at, length) in Places(plain)) plain.ReadBytes(at, length).ShouldBe(Pattern(at, length), $"at {at}");
    }

    /// <summary>Reads and writes of any place and length agree with a plain copy in memory.</summary>
    [Theory]
    [InlineData(0x8000)]
    [InlineData(0x8001)]
    [InlineData(0x8002)]
    [InlineData(0x8003)]
    [InlineData(0x8004)]
    [InlineData(0x8005)]
    public void Any_piece_reads_as_it_was_written(int method)
    {
        const int length = 1024 * 1024, sector = 512;
        var key = Enumerable.Range(1, 64).Select(number => (byte)(number * 7)).ToArray();
        using var cipher = EncryptionMethod.CipherOf((ushort)method, key, sector).ShouldNotBeNull();
        var places = new EncryptedPlaces(
            new ByteRange(0, 8192),
            65536,
            length - 65536,
            [new ByteRange(65536, 8192), new ByteRange(131072, 65536)]);
        Gen.Select(Gen.Int[0, length - 1], Gen.Int[1, 20000], Gen.Byte).Array[1, 8].Sample(
            writes =>
            {
                var blocks = new UnlockedBlocks(new MemoryBlocks(new byte[length]), cipher, places, whyNotWritten: null);
                var expected = blocks.ReadBytes(0, length);
                foreach (var (at, size, value) in writes)
                {
                    var data = Enumerable.Repeat(value, Math.Min(size, length - at)).ToArray();
                    var hits = places.Hidden.Any(range => range.Overlaps(new ByteRange(at, data.Length)));
                    if (hits && value != 0)
                    {
                        Should.Throw<RefusedException>(() => blocks.Write(at, data));
                        continue;
                    }

                    blocks.Write(at, data);
                    data.CopyTo(expected, at);
                }

                blocks.ReadBytes(0, length).AsSpan().SequenceEqual(expected).ShouldBeTrue();
                foreach (var (at, size, _) in writes)
                {
                    var count = Math.Min(size, length - at);
                    blocks.ReadBytes(at, count).AsSpan().SequenceEqual(expected.AsSpan(at, count)).ShouldBeTrue();
                }
            },
            iter: 20);
    }

    [Fact]
    public void With_one_whole_block_of_metadata_it_is_read_and_not_written()
    {
        using var scratch = new Scratch();
        var path = WindowsVolume.Write(scratch, "aes-xts-128");
        var sector = new byte[512];
        using (var disk = DiskFile.OpenForWriting(path))
        {
            disk.Read(0, sector);
            for (var number = 0; number < 2; number++)
                disk.Write(BitConverter.ToInt64(sector, 0xB0 + (number * 8)) + 120, [0xEE]);
        }

        using var file = DiskFile.Open(path);
        using var ring = new KeyRing();
        ring.Add(KeyOf(WindowsVolume.Of("aes-xts-128"), VolumeKeyKind.Password));
        var (blocks, _) = VolumeUnlocking.Open(new Overlay(file), "volume 1", ring).ShouldNotBeNull();
        FileSystemProbe.Identify(blocks).ShouldBe(FileSystemKind.Ntfs);
        Should.Throw<RefusedException>(() => blocks.Write(0, new byte[512])).Why.ShouldContain("1 is whole");
    }

    [Fact]
    public void A_stick_of_the_form_for_removable_disks_is_not_written()
    {
        using var scratch = new Scratch();
        using var file = WindowsVolume.Open(scratch, "togo-aes-xts-128");
        using var ring = new KeyRing();
        ring.Add(KeyOf(WindowsVolume.Of("togo-aes-xts-128"), VolumeKeyKind.Password));
        var (blocks, _) = VolumeUnlocking.Open(new Overlay(file), "volume 1", ring).ShouldNotBeNull();
        Should.Throw<RefusedException>(() => blocks.Write(0, new byte[512])).Why.ShouldContain("removable");
    }

    /// <summary>A key that is known, and metadata with anything in them: opened, or not, in bounded time.</summary>
    [Fact]
    public void Hostile_metadata_open_nothing_and_end_nothing()
    {
        var pieces = WindowsVolume.Unpack("aes-xts-128-startup-key");
        var metadata = pieces.First(piece => piece.Bytes.AsSpan().StartsWith("-FVE-FS-"u8)).Bytes.AsSpan(0, 4096).ToArray();
        Gen.Select(Gen.Int[0, 1300], Gen.Byte).Array[1, 12].Sample(changes =>
        {
            var bytes = new byte[512 * 1024];
            pieces[0].Bytes.AsSpan(0, 512).CopyTo(bytes);
            var block = metadata.ToArray();
            for (var number = 0; number < 3; number++)
            {
                BitConverter.TryWriteBytes(bytes.AsSpan(0xB0 + (number * 8)), 65536L * (number + 1));
                BitConverter.TryWriteBytes(block.AsSpan(0x20 + (number * 8)), 65536L * (number + 1));
            }

            foreach (var (at, value) in changes) block[at] = value;
            var length = BitConverter.ToUInt16(block, 8) * 16;
            if (length + 8 < block.Length) System.IO.Hashing.Crc32.Hash(block.AsSpan(0, length), block.AsSpan(length + 4));
            for (var number = 0; number < 3; number++) block.CopyTo(bytes, 65536 * (number + 1));
            using var ring = new KeyRing();
            ring.Add(KeyOf(WindowsVolume.Of("aes-xts-128-startup-key"), VolumeKeyKind.Startup));
            if (VolumeUnlocking.Open(new MemoryBlocks(bytes), "volume 1", ring) is { } open)
                _ = open.Blocks.ReadBytes(0, bytes.Length);
        });
    }

    [Theory]
    [InlineData("235818-357951-253979-013365-241120-245575-342914-591910", true, 0)]
    [InlineData("235818357951253979013365241120245575342914591910", true, 0)]
    [InlineData(" 235818 357951\u2013253979\u00A0013365 241120 245575 342914 591910\r\n", true, 0)]
    [InlineData("235818-357951-253979-013365-241120-245575-342914-59191", false, 0)]
    [InlineData("235818-357951-253978-013365-241120-245575-342914-591910", false, 3)]
    [InlineData("235818-357951-253979-013365-241120-245575-342914-720907", false, 8)]
    [InlineData("235818-357951-253979-013365-241120-245575-342914-591910-1", false, 0)]
    public void Digits_are_read_as_they_are_copied_and_a_slip_is_placed(string text, bool isRight, int wrongGroup)
    {
        using var key = RecoveryDigits.Read(text, out var wrong);
        (key is not null).ShouldBe(isRight);
        wrong.ShouldBe(wrongGroup);
    }

    [Fact]
    public void Any_sixteen_bytes_have_digits_and_one_wrong_digit_is_always_seen() => Gen.Select(
        Gen.UShort.Array[8],
        Gen.Int[0, 47],
        Gen.Int[1, 9]).Sample((words, at, more) =>
        {
            var digits = string.Join('-', words.Select(word => $"{word * 11:D6}"));
            using (var key = RecoveryDigits.Read(digits, out _).ShouldNotBeNull())
                System.Runtime.InteropServices.MemoryMarshal.Cast<byte, ushort>(key.Bytes).ToArray().ShouldBe(words);
            var place = at + (at / 6);
            var slip = digits.ToCharArray();
            slip[place] = (char)('0' + ((slip[place] - '0' + more) % 10));
            RecoveryDigits.Read(slip, out var wrong).ShouldBeNull();
            wrong.ShouldBe((at / 6) + 1);
        });

    [Theory]
    [InlineData("235818-357951-253979-013365-241120-245575-342914-591910\n", VolumeKeyKind.Recovery)]
    [InlineData(
        "Backup of the key\n\nIdentifier:\n  64311DEA-4587\n\nKey:\n\n"
            + "  235818-357951-253979-013365-241120-245575-342914-591910\n",
        VolumeKeyKind.Recovery)]
    [InlineData("Key: 235818-357951-253979-013365-241120-245575-342914-591910", VolumeKeyKind.Recovery)]
    [InlineData("anaconda\r\n", VolumeKeyKind.Password)]
    [InlineData("  with blanks  ", VolumeKeyKind.Password)]
    public void A_file_tells_what_it_holds(string text, VolumeKeyKind kind)
    {
        foreach (var encoding in (Encoding[])[Encoding.UTF8, Encoding.Unicode, Encoding.BigEndianUnicode])
        {
            var contents = (byte[])[.. encoding.GetPreamble(), .. encoding.GetBytes(text)];
            KeyFile.Read(contents, "a file").ShouldHaveSingleItem().Kind.ShouldBe(kind);
            contents.ShouldAllBe(one => one == 0);
        }
    }

    [Theory]
    [InlineData("", "empty")]
    [InlineData("one line\nanother", "several lines")]
    [InlineData("235818-357951-253978-013365-241120-245575-342914-591910", "Group 3 of 8")]
    [InlineData("235818-357951-253979-013365-241120-245575-342914", "48 digits")]
    public void A_file_without_a_key_says_why(string text, string why) =>
        Should.Throw<WrongUsageException>(() => KeyFile.Read(Encoding.UTF8.GetBytes(text), "a file")).Why.ShouldContain(why);

    [Fact]
    public void A_list_has_many_and_a_wrong_line_is_named_by_its_number()
    {
        const string right = "# the ferries\n64311dea 235818-357951-253979-013365-241120-245575-342914-591910\n\n"
            + "{B9859A34-8139-4D5E-A628-412BEF9BA206};616319-601744-502117-534017-367994-176748-607299-663201\n";
        KeyFile.ReadList(Encoding.UTF8.GetBytes(right), "keys").Select(key => key.Protector)
            .ShouldBe(["64311dea", "B9859A34-8139-4D5E-A628-412BEF9BA206"]);
        Should.Throw<WrongUsageException>(() => KeyFile.ReadList(Encoding.UTF8.GetBytes($"{right}64311dea 235818"), "keys"))
            .What.ShouldContain("Line 5");
    }

    /// <summary>The memory of a key is zero after it, and a secret can't be read then.</summary>
    [Fact]
    public void A_secret_is_gone_afterwards()
    {
        var bytes = (byte[])[1, 2, 3];
        var secret = Secret.Taking(bytes);
        bytes.ShouldBe([0, 0, 0]);
        secret.Bytes.ToArray().ShouldBe([1, 2, 3]);
        secret.Dispose();
        Should.Throw<ObjectDisposedException>(() => secret.Bytes.Length);
    }

    private static VolumeKey KeyOf(WindowsVolume volume, VolumeKeyKind kind) => KeyFile.Read(
        kind switch
        {
            VolumeKeyKind.Recovery => Encoding.UTF8.GetBytes(volume.RecoveryKey),
            VolumeKeyKind.Password => Encoding.UTF8.GetBytes(volume.Password!),
            _ => File.ReadAllBytes(WindowsVolume.Place(volume.StartupKey!))
        },
        "a test").ShouldHaveSingleItem();

    private static string SumOf(IReadableBlocks blocks)
    {
        using var sum = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var piece = new byte[PieceBytes];
        for (long at = 0; at < blocks.LengthBytes; at += piece.Length)
        {
            var part = piece.AsSpan(0, (int)Math.Min(piece.Length, blocks.LengthBytes - at));
            blocks.Read(at, part);
            sum.AppendData(part);
        }

        return Convert.ToHexStringLower(sum.GetHashAndReset());
    }

    private static IEnumerable<(long At, int Length)> Places(IReadableBlocks blocks) =>
    [
        (100, 300),
        (8192 - 700, 2000),
        (20 * PieceBytes, 3 * PieceBytes),
        ((30 * PieceBytes) + 77, 5001),
        (blocks.LengthBytes - 512, 512)
    ];

    private static byte[] Pattern(long at, int length) =>
        [.. Enumerable.Range(0, length).Select(number => (byte)((at + number) * 31 >> 3))];
}

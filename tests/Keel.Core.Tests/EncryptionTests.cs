using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Keys;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Volumes;
using Keel.Core.Volumes.BitLocker;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>What volumes that Windows encrypted tell without a key.</summary>
public sealed class EncryptionTests
{
    [Theory]
    [InlineData("aes-xts-128", "XTS-AES 128", EncryptionState.On, "64311DEA", "Password, RecoveryKey", "DESKTOP-NPM7RCA")]
    [InlineData("aes-xts-128-4k", "XTS-AES 128", EncryptionState.On, "69A49AD2", "Password, RecoveryKey", "DESKTOP-LG39GVP")]
    [InlineData(
        "aes-cbc-elephant-256",
        "AES-CBC 256 with diffuser",
        EncryptionState.On,
        "707C5E8C",
        "Password, RecoveryKey",
        "WIN-TR6JK2CTSJC")]
    [InlineData("togo-aes-xts-128", "XTS-AES 128", EncryptionState.On, "CFC68DDA", "Password, RecoveryKey", "DESKTOP-NPM7RCA")]
    [InlineData(
        "clearkey-aes-cbc-128",
        "AES-CBC 128",
        EncryptionState.Suspended,
        "BF563C45",
        "Password, RecoveryKey, Clear",
        "DESKTOP-NPM7RCA")]
    [InlineData(
        "aes-xts-128-eow",
        "XTS-AES 128",
        EncryptionState.OnWrite,
        "2565364C",
        "Password, RecoveryKey",
        "DESKTOP-B727RA0")]
    [InlineData(
        "aes-xts-128-startup-key",
        "XTS-AES 128",
        EncryptionState.On,
        "294BC732",
        "Password, RecoveryKey, StartupKey",
        "DESKTOP-LG39GVP")]
    [InlineData(
        "aes-xts-128-smart-card",
        "XTS-AES 128",
        EncryptionState.On,
        "1F9DA098",
        "SmartCard, RecoveryKey",
        "DESKTOP-B727RA0")]
    public void It_says_how_it_is_locked(
        string sample,
        string method,
        EncryptionState state,
        string recoveryKey,
        string protectors,
        string computer)
    {
        using var scratch = new Scratch();
        using var volume = WindowsVolume.Open(scratch, sample);
        FileSystemProbe.Identify(volume).ShouldBe(FileSystemKind.BitLocker);
        var facts = EncryptionReader.Read(volume).ShouldNotBeNull();
        facts.Method.ShouldBe(method);
        facts.State.ShouldBe(state);
        facts.RecoveryKeys.ShouldBe([recoveryKey]);
        string.Join(", ", facts.Protectors.Select(one => one.Kind)).ShouldBe(protectors);
        facts.Computer.ShouldBe(computer);
        facts.WholeBlocks.ShouldBe([1, 2, 3]);
        facts.IsToGo.ShouldBe(sample.StartsWith("togo", StringComparison.Ordinal));
        facts.Since!.Value.Year.ShouldBeInRange(2019, 2021);
    }

    [Fact]
    public void Of_damaged_metadata_the_rest_is_told_and_of_none_nothing()
    {
        using var scratch = new Scratch();
        using (WindowsVolume.Open(scratch, "aes-xts-128"))
        {
        }

        var sector = File.ReadAllBytes(scratch["volume"]).AsSpan(0, 512).ToArray();
        for (var number = 0; number < 3; number++)
        {
            using (var disk = DiskFile.OpenForWriting(scratch["volume"]))
                disk.Write(BitConverter.ToInt64(sector, 0xB0 + (number * 8)) + 120, [0xEE]);
            using var volume = DiskFile.Open(scratch["volume"]);
            EncryptionReader.Read(volume)?.WholeBlocks.Count.ShouldBe(2 - number);
            if (number == 2) EncryptionReader.Read(volume).ShouldBeNull();
        }
    }

    [Fact]
    public void Hostile_metadata_is_survived()
    {
        var unpacked = WindowsVolume.Unpack("aes-xts-128-startup-key");
        Gen.Select(Gen.Int[0, 511], Gen.Byte).Array[1, 12].Sample(changes =>
        {
            var metadata = unpacked.First(piece => piece.Bytes.AsSpan().StartsWith("-FVE-FS-"u8)).Bytes.AsSpan(0, 4096);
            var bytes = new byte[256 * 1024];
            "-FVE-FS-"u8.CopyTo(bytes.AsSpan(3));
            unpacked[0].Bytes.AsSpan(0, 512).CopyTo(bytes);
            for (var number = 0; number < 3; number++)
                BitConverter.TryWriteBytes(bytes.AsSpan(0xB0 + (number * 8)), 4096L << number);
            foreach (var number in Enumerable.Range(0, 3)) metadata.CopyTo(bytes.AsSpan(4096 << number));
            foreach (var (at, value) in changes) bytes[4096 + at] = value;
            var length = BitConverter.ToUInt16(bytes, 4096 + 8) * 16;
            if (4096 + length + 8 < bytes.Length)
                System.IO.Hashing.Crc32.Hash(bytes.AsSpan(4096, length), bytes.AsSpan(4096 + length + 4));
            _ = EncryptionReader.Read(new MemoryBlocks(bytes));
        });
    }

    [Fact]
    public void Where_nothing_can_be_typed_no_key_is_asked_for()
    {
        const ushort password = 0x2000, recovery = 0x0800, tpm = 0x0100;
        using var practice = new Practice();
        var number = practice.Windows.Number;
        practice.Change(machine => PutMetadata(
            machine.Volumes.First(volume => volume.Number == number).RawBlocks,
            kind => kind is password or recovery ? tpm : kind));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Findings.Select(finding => finding.Id).ShouldContain("volume-encrypted-keyless");
        plan.Findings.Select(finding => finding.Id).ShouldNotContain("volume-encrypted");
    }

    [Fact]
    public void A_page_of_keys_is_used_where_one_of_them_fits_and_the_same_key_twice_is_one()
    {
        using var ring = new KeyRing();
        const string first = "235818-357951-253979-013365-241120-245575-342914-591910";
        const string second = "616319-601744-502117-534017-367994-176748-607299-663201";
        foreach (var key in KeyFile.Read(System.Text.Encoding.UTF8.GetBytes($"Keys\n{first}\n{second}\n"), "page")) ring.Add(key);
        ring.Add(KeyFile.OfLine(first, "terminal"));
        ring.Keys.Count.ShouldBe(2);
        ring.Unused.Count.ShouldBe(2);
        using var scratch = new Scratch();
        using var volume = WindowsVolume.Open(scratch, "aes-xts-128");
        VolumeUnlocking.Open(new Overlay(volume), "volume 1", ring).ShouldNotBeNull();
        ring.Unused.ShouldBeEmpty();

        // A second key that was typed is by itself, though the first one fitted.
        ring.Add(KeyFile.OfLine("a slip", "terminal"));
        ring.Unused.ShouldHaveSingleItem();
    }

    /// <summary>
    /// The same metadata on a practice machine, as if the TPM kept the key: boot code is measured, a store may be.
    /// </summary>
    [Theory]
    [InlineData("mbr-code-wiped", FirmwareKind.Bios, PromptEffect.Will)]
    [InlineData("table-none-active", FirmwareKind.Bios, PromptEffect.NotKnown)]
    [InlineData("gpt-backup-damaged", FirmwareKind.Uefi, PromptEffect.None)]
    public void A_plan_says_whether_the_recovery_key_will_be_asked_for(string fault, FirmwareKind firmware, PromptEffect effect)
    {
        const ushort password = 0x2000, tpm = 0x0100;
        using var practice = new Practice(fault, firmware);
        var number = practice.Windows.Number;
        practice.Change(machine => PutMetadata(
            machine.Volumes.First(volume => volume.Number == number).RawBlocks,
            kind => kind == password ? tpm : kind));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Steps.ShouldNotBeEmpty();
        var prompt = RecoveryPrompt.Of(practice.Machine, plan).ShouldHaveSingleItem();
        prompt.Effect.ShouldBe(effect);
        prompt.RecoveryKeys.ShouldBe(["64311DEA"]);
        prompt.Steps.Count.ShouldBe(effect == PromptEffect.None ? 0 : 1);
    }

    /// <summary>Puts metadata that Windows made on a volume, with other kinds of protectors.</summary>
    private static void PutMetadata(IWritableBlocks volume, Func<ushort, ushort> kindFor)
    {
        const int entriesAt = 112, kindAt = 34;
        foreach (var (at, bytes) in WindowsVolume.Unpack("aes-xts-128").SkipLast(1))
        {
            if (bytes.AsSpan().StartsWith("-FVE-FS-"u8))
            {
                var length = BitConverter.ToUInt16(bytes, 8) * 16;
                for (var entry = entriesAt; entry + kindAt < length;)
                {
                    var size = BitConverter.ToUInt16(bytes, entry);
                    if (size == 0) break;
                    var place = bytes.AsSpan(entry + kindAt, sizeof(ushort));
                    if (BitConverter.ToUInt16(bytes, entry + 2) == 2)
                        BitConverter.TryWriteBytes(place, kindFor(BitConverter.ToUInt16(place)));
                    entry += size;
                }

                System.IO.Hashing.Crc32.Hash(bytes.AsSpan(0, length), bytes.AsSpan(length + 4));
            }

            volume.Write(at, bytes);
        }
    }
}

using System.Reflection.PortableExecutable;
using Keel.Core.Blocks;
using Keel.Core.Drills;
using Keel.Core.Programs;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Programs: headers, checksum and signature, beside what osslsigncode says of the same files.</summary>
public sealed class ProgramTests
{
    private static readonly byte[] Plain = StandInProgram.Make(
        "sailing.exe",
        "10.0.19045.1",
        Subsystem.Native,
        imports: ["hal.dll", "quay.dll"]);

    [Fact]
    public async Task Checksum_and_signature_are_those_that_osslsigncode_sees()
    {
        using var scratch = new Scratch();
        var signed = await Sign(scratch, Plain);
        var said = await Tool.Run("osslsigncode", "verify", "-in", scratch["signed.exe"]);
        said.Output.ShouldContain("Calculated message digest");
        var content = ProgramContent.Read(new MemoryBlocks(signed))!;
        (content.ChecksumFits, content.DigestFits, content.IsAltered).ShouldBe((true, true, false));
        content.Signature!.Signer.ShouldBe("Brackwater Ferries practice");
        content.Signature.IsIntact.ShouldBeTrue();
        said.Output.ShouldContain(Convert.ToHexString(content.Signature.Digest));
        content.Says.Facts.Get(Facts.Fact.Signer).ShouldBe("Brackwater Ferries practice");
    }

    [Fact]
    public async Task Any_changed_byte_of_a_signed_program_is_noticed()
    {
        using var scratch = new Scratch();
        var signed = await Sign(scratch, Plain);
        var random = new Random(3);
        for (var round = 0; round < 200; round++)
        {
            var changed = signed.ToArray();
            var at = random.Next(0x400, Plain.Length);
            changed[at] ^= (byte)random.Next(1, 256);
            ProgramContent.Read(new MemoryBlocks(changed))!.DigestFits.ShouldBe(false, $"byte {at}");
        }
    }

    [Fact]
    public void A_program_without_signature_is_judged_by_its_checksum_and_without_either_not_at_all()
    {
        ProgramContent.Read(new MemoryBlocks(Plain))!.ShouldBe(new ProgramContent(true, null, null));
        var changed = Plain.ToArray();
        changed[5000] ^= 1;
        ProgramContent.Read(new MemoryBlocks(changed))!.IsAltered.ShouldBeTrue();
        var unmarked = Plain.ToArray();
        unmarked.AsSpan(0xD8, 4).Clear();
        ProgramContent.Read(new MemoryBlocks(unmarked))!.Says.Id.ShouldBe("content.unchecked");
    }

    [Fact]
    public void Headers_version_and_needed_files_are_read()
    {
        var blocks = new MemoryBlocks(Plain);
        ProgramFile.TryRead(blocks)!.NeededBytes.ShouldBe(Plain.Length);
        ProgramFile.VersionOf(blocks).ShouldBe(new Version(10, 0, 19045, 1));
        ProgramImports.Of(blocks).ShouldBe(["hal.dll", "quay.dll"]);
    }

    [Fact]
    public void Any_bytes_are_survived_by_the_readers_of_programs()
    {
        for (var seed = 0; seed < 2000; seed++)
        {
            var random = new Random(seed);
            var bytes = Plain[..random.Next(1, 6000)].ToArray();
            for (var change = 0; change < 12; change++)
                bytes[random.Next(Math.Min(bytes.Length, 0x400))] = (byte)random.Next(256);
            var blocks = new MemoryBlocks(bytes);
            _ = ProgramFile.TryRead(blocks);
            _ = ProgramFile.VersionOf(blocks);
            _ = ProgramImports.Of(blocks);
            _ = ProgramContent.Read(blocks);
        }
    }

    internal static async Task<byte[]> Sign(Scratch scratch, byte[] program)
    {
        await File.WriteAllBytesAsync(scratch["plain.exe"], program);
        await Tool.MustAgree(
            "openssl",
            "req",
            "-x509",
            "-newkey",
            "rsa:2048",
            "-nodes",
            "-days",
            "30",
            "-subj",
            "/CN=Brackwater Ferries practice",
            "-keyout",
            scratch["key.pem"],
            "-out",
            scratch["certificate.pem"]);
        await Tool.MustAgree(
            "osslsigncode",
            "sign",
            "-h",
            "sha256",
            "-certs",
            scratch["certificate.pem"],
            "-key",
            scratch["key.pem"],
            "-in",
            scratch["plain.exe"],
            "-out",
            scratch["signed.exe"]);
        return await File.ReadAllBytesAsync(scratch["signed.exe"]);
    }
}

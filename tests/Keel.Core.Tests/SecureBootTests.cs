using System.Reflection.PortableExecutable;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Facts;
using Keel.Core.Firmware;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Programs;
using Keel.Core.Store;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Secure Boot: which programs a firmware would start; signed here by openssl and osslsigncode.</summary>
public sealed class SecureBootTests : IDisposable
{
    private const string VariableGuid = "8be4df61-93ca-11d2-aa0d-00e098032b8c";
    private const string DatabaseGuid = "d719b2cb-3d3a-4596-a3bc-dad00e67656f";
    private static readonly Guid Certificate = new("a5c059a1-94e4-4aa7-87b5-ab155c2bf072");
    private static readonly Guid Program = new("c1c41626-504c-4092-aca9-41f936934328");
    private static readonly Guid CertificateDigest = new("3bd2a492-96c0-4079-b420-fcf98ef103ed");

    private static readonly byte[] Plain = StandInProgram.Make(
        "sailing.efi",
        "10.0.19045.1",
        Subsystem.EfiApplication,
        imports: []);

    private readonly Scratch scratch = new();

    public void Dispose() => scratch.Dispose();

    [Theory]
    [InlineData("issuer", null)]
    [InlineData("signer", null)]
    [InlineData("other, issuer", null)]
    [InlineData("program", null)]
    [InlineData("other", "trust.signer-unknown")]
    [InlineData("", "trust.signer-unknown")]
    [InlineData("issuer, not signer", "trust.signer-forbidden")]
    [InlineData("issuer, not issuer", "trust.signer-forbidden")]
    [InlineData("issuer, not signer-digest", "trust.signer-forbidden")]
    [InlineData("issuer, not program", "trust.program-forbidden")]
    [InlineData("issuer, not other", null)]
    public async Task A_signed_program_is_started_where_its_certificates_lead_to_a_known_one(string keys, string? reason)
    {
        var signed = await Sign(Plain);
        ProgramTrust.WhyRefused(new MemoryBlocks(signed), Firmware(keys, signed))?.Id.ShouldBe(reason);
        (ProgramTrust.WhyRefused(new MemoryBlocks(signed), Firmware(keys, signed)) is null).ShouldBe(reason is null);
    }

    [Fact]
    public async Task A_program_without_a_signature_or_with_one_that_does_not_fit_is_refused()
    {
        var signed = await Sign(Plain);
        ProgramTrust.WhyRefused(new MemoryBlocks(Plain), Firmware("issuer", Plain))!.Id.ShouldBe("trust.unsigned");
        ProgramTrust.WhyRefused(new MemoryBlocks(Plain), Firmware("program", Plain)).ShouldBeNull();
        var changed = signed.ToArray();
        changed[0x450] ^= 1;
        ProgramTrust.WhyRefused(new MemoryBlocks(changed), Firmware("issuer", signed))!.Id.ShouldBe("trust.signature-damaged");
    }

    [Theory]
    [InlineData(true, true)]
    [InlineData(false, false)]
    public async Task A_manager_that_the_firmware_refuses_is_recreated_from_a_copy_that_it_takes(bool hasCopy, bool isMended)
    {
        using var practice = new Practice(firmware: FirmwareKind.Uefi);
        var signed = await Sign(StandInProgram.Make(
            "bootmgfw.efi",
            "10.0.19045.1",
            Subsystem.EfiApplication,
            imports: []));
        Enroll(signed);
        PracticeDisk.Change(practice.Path, change =>
        {
            if (hasCopy)
                change.Installations[0].Volume.Edit(files => files.WriteFile(@"\Windows\Boot\EFI\bootmgfw.efi", signed));
        });
        using var machine = Machines.Machine.Open([practice.Path], FirmwareVariables.Open(scratch.Folder), startsThrough: null);
        var diagnosis = Diagnosis.Of(machine, reported: "secure boot violation", RepairTerms.Usual);
        var finding = diagnosis.Plan.Findings.First(found => found.Id == "manager-not-trusted");
        finding.Seen.Facts.Get(Fact.Reason)!.Id.ShouldBe("trust.unsigned");
        diagnosis.Plan.After.Findings.Any(found => found.Id == "manager-not-trusted").ShouldBe(!isMended);
        if (!isMended) return;
        machine.SystemVolume!.Files!.OpenFile(BootFiles.Uefi.ManagerPath).ReadBytesOf(int.MaxValue).ShouldBe(signed);
    }

    [Fact]
    public async Task Without_Secure_Boot_nobody_asks_for_a_signature()
    {
        using var practice = new Practice(firmware: FirmwareKind.Uefi);
        Enroll(await Sign(Plain), isOn: 0);
        using var machine = Machines.Machine.Open([practice.Path], FirmwareVariables.Open(scratch.Folder), startsThrough: null);
        machine.SecureBoot.IsOn.ShouldBe(false);
        Walk.Of(machine).Findings.ShouldNotContain(found => found.Id == "manager-not-trusted");
    }

    [Fact]
    public void Any_bytes_are_survived_by_the_reader_of_signature_databases()
    {
        var sound = List(Program, new byte[32]).Concat(List(Certificate, new byte[700])).ToArray();
        SignatureDatabase.Read(sound).Programs.Count.ShouldBe(1);
        for (var seed = 0; seed < 3000; seed++)
        {
            var random = new Random(seed);
            var bytes = sound[..random.Next(sound.Length + 1)].ToArray();
            for (var change = 0; change < 4 && bytes.Length > 0; change++)
                bytes[random.Next(Math.Min(bytes.Length, 60))] = (byte)random.Next(256);
            _ = SignatureDatabase.Read(bytes);
        }
    }

    private SecureBoot Firmware(string keys, byte[] program)
    {
        var words = keys.Split(", ", StringSplitOptions.RemoveEmptyEntries);
        var allowed = words
            .Where(word => !word.StartsWith("not ", StringComparison.Ordinal))
            .SelectMany(word => Key(word, program));
        var forbidden = words
            .Where(word => word.StartsWith("not ", StringComparison.Ordinal))
            .SelectMany(word => Key(word[4..], program));
        return new SecureBoot(true, SignatureDatabase.Read([.. allowed]), SignatureDatabase.Read([.. forbidden]));
    }

    private byte[] Key(string word, byte[] program) => word switch
    {
        "issuer" => List(Certificate, Der("issuer")),
        "signer" => List(Certificate, Der("signer")),
        "other" => List(Certificate, Der("other")),
        "signer-digest" => List(CertificateDigest, [.. SHA256.HashData(SignedPart(Der("signer"))), .. new byte[16]]),
        _ => List(Program, ProgramContent.DigestOf(new MemoryBlocks(program), HashAlgorithmName.SHA256)!)
    };

    private byte[] Der(string name) => X509Certificate2.CreateFromPem(File.ReadAllText(scratch[$"{name}.pem"])).RawData;

    private static byte[] SignedPart(byte[] certificate) => new System.Formats.Asn1.AsnReader(
        certificate,
        System.Formats.Asn1.AsnEncodingRules.DER).ReadSequence().ReadEncodedValue().ToArray();

    /// <summary>A list with one signature.</summary>
    private static byte[] List(Guid kind, byte[] data) =>
    [
        .. kind.ToByteArray(),
        .. BitConverter.GetBytes(28 + 16 + data.Length),
        .. BitConverter.GetBytes(0),
        .. BitConverter.GetBytes(16 + data.Length),
        .. new byte[16],
        .. data
    ];

    /// <summary>Variable files of a firmware that trusts the issuer.</summary>
    private void Enroll(byte[] program, byte isOn = 1)
    {
        File.WriteAllBytes(scratch[$"SecureBoot-{VariableGuid}"], [6, 0, 0, 0, isOn]);
        File.WriteAllBytes(scratch[$"db-{DatabaseGuid}"], [0x27, 0, 0, 0, .. Key("issuer", program)]);
    }

    /// <summary>Signs a program by a certificate that another one issued; a third one stands by.</summary>
    private async Task<byte[]> Sign(byte[] program)
    {
        await File.WriteAllBytesAsync(scratch["plain.efi"], program);
        foreach (var name in (string[])["issuer", "other"])
        {
            await Tool.MustAgree(
                "openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "30",
                "-subj", $"/CN=Brackwater Ferries {name}", "-keyout", scratch[$"{name}.key"], "-out", scratch[$"{name}.pem"]);
        }

        await Tool.MustAgree(
            "openssl", "req", "-newkey", "rsa:2048", "-nodes", "-subj", "/CN=Brackwater Ferries signer",
            "-keyout", scratch["signer.key"], "-out", scratch["signer.csr"]);
        await Tool.MustAgree(
            "openssl", "x509", "-req", "-days", "30", "-in", scratch["signer.csr"], "-CA", scratch["issuer.pem"],
            "-CAkey", scratch["issuer.key"], "-CAcreateserial", "-out", scratch["signer.pem"]);
        await Tool.MustAgree("sh", "-c", $"cat {scratch["signer.pem"]} {scratch["issuer.pem"]} > {scratch["chain.pem"]}");
        await Tool.MustAgree(
            "osslsigncode", "sign", "-h", "sha256", "-certs", scratch["chain.pem"], "-key", scratch["signer.key"],
            "-in", scratch["plain.efi"], "-out", scratch["signed.efi"]);
        return await File.ReadAllBytesAsync(scratch["signed.efi"]);
    }
}

using System.Formats.Asn1;
using System.Security.Cryptography;
using System.Security.Cryptography.Pkcs;
using System.Security.Cryptography.X509Certificates;
using Keel.Core.Blocks;
using Keel.Core.Facts;
using Keel.Core.Firmware;

namespace Keel.Core.Programs;

/// <summary>
/// Whether a firmware with Secure Boot starts a program: by its digest, or by a signature whose certificates lead to one that
/// the firmware trusts (UEFI specification, "Secure Boot and Driver Signing", image authorization).
/// </summary>
/// <remarks>Times are not judged: a firmware knows none that it could trust, and takes certificates that expired.</remarks>
public static class ProgramTrust
{
    private const int LongestChain = 8;

    /// <summary>Why the firmware refuses a program; null where it starts it.</summary>
    /// <exception cref="Errors.UnreadableException">The file can't be read.</exception>
    public static Remark? WhyRefused(IReadableBlocks file, SecureBoot firmware)
    {
        if (ProgramContent.DigestOf(file, HashAlgorithmName.SHA256) is not { } digest) return Remark.Of("trust.unsigned");
        if (firmware.Forbidden.HasProgram(digest)) return Remark.Of("trust.program-forbidden");
        if (firmware.Allowed.HasProgram(digest)) return null;
        var why = Remark.Of("trust.unsigned");
        foreach (var signature in ProgramContent.SignaturesOf(file))
        {
            if (WhyRefused(file, signature, firmware) is not { } reason) return null;
            why = reason;
        }

        return why;
    }

    /// <summary>A signature of a program, where it is whole and fits what the program is; whose it is, is not judged.</summary>
    /// <param name="file">The program.</param>
    /// <param name="pkcs7">The signature, as <see cref="ProgramContent.SignaturesOf"/> gives it.</param>
    /// <exception cref="Errors.UnreadableException">The file can't be read.</exception>
    public static ProgramSignature? FittingIn(IReadableBlocks file, byte[] pkcs7) =>
        ProgramSignature.TryRead(pkcs7) is { IsIntact: true } signature
            && ProgramContent.DigestOf(file, signature.Algorithm) is { } digest
            && digest.AsSpan().SequenceEqual(signature.Digest)
            ? signature
            : null;

    private static Remark? WhyRefused(IReadableBlocks file, byte[] pkcs7, SecureBoot firmware)
    {
        if (FittingIn(file, pkcs7) is not { } signature) return Remark.Of("trust.signature-damaged");
        var chain = ChainOf(pkcs7);
        if (chain.Exists(one => firmware.Forbidden.HasCertificate(one.RawData, SignedPartDigest(one))))
            return Remark.Of("trust.signer-forbidden", Fact.Signer.Is(signature.Signer));
        return chain.Exists(certificate => IsTrusted(certificate, firmware.Allowed))
            ? null
            : Remark.Of("trust.signer-unknown", Fact.Signer.Is(signature.Signer));
    }

    /// <summary>The signer's certificate, and those that issued it and one another, as far as the signature has them.</summary>
    private static List<X509Certificate2> ChainOf(byte[] pkcs7)
    {
        var cms = new SignedCms();
        cms.Decode(pkcs7);
        var chain = new List<X509Certificate2>();
        for (var current = cms.SignerInfos[0].Certificate; current is not null && chain.Count < LongestChain;)
        {
            chain.Add(current);
            var child = current;
            current = cms.Certificates.FirstOrDefault(other => !chain.Contains(other) && HasIssued(other, child));
        }

        return chain;
    }

    private static bool IsTrusted(X509Certificate2 certificate, SignatureDatabase allowed)
    {
        foreach (var bytes in allowed.Certificates)
        {
            if (certificate.RawDataMemory.Span.SequenceEqual(bytes)) return true;
            if (TryLoad(bytes) is not { } known) continue;
            using (known)
            {
                if (HasIssued(known, certificate)) return true;
            }
        }

        return false;
    }

    private static X509Certificate2? TryLoad(byte[] bytes)
    {
        try
        {
            return X509CertificateLoader.LoadCertificate(bytes);
        }
        catch (CryptographicException)
        {
            return null;
        }
    }

    /// <summary>Whether one certificate's key signed another.</summary>
    private static bool HasIssued(X509Certificate2 issuer, X509Certificate2 certificate)
    {
        if (!issuer.SubjectName.RawData.AsSpan().SequenceEqual(certificate.IssuerName.RawData)) return false;
        try
        {
            var whole = new AsnReader(certificate.RawDataMemory, AsnEncodingRules.DER).ReadSequence();
            var signed = whole.ReadEncodedValue();
            var algorithm = whole.ReadSequence().ReadObjectIdentifier();
            var signature = whole.ReadBitString(out _);
            return Verifies(issuer, algorithm, signed.Span, signature);
        }
        catch (Exception e) when (e is CryptographicException or AsnContentException)
        {
            return false;
        }
    }

    private static bool Verifies(X509Certificate2 issuer, string algorithm, ReadOnlySpan<byte> signed, byte[] signature)
    {
        if (HashOfRsa(algorithm) is { } hash)
        {
            using var rsa = issuer.GetRSAPublicKey();
            return rsa?.VerifyData(signed, signature, hash, RSASignaturePadding.Pkcs1) == true;
        }

        if (HashOfEcdsa(algorithm) is not { } other) return false;
        using var ecdsa = issuer.GetECDsaPublicKey();
        return ecdsa?.VerifyData(signed, signature, other, DSASignatureFormat.Rfc3279DerSequence) == true;
    }

    private static HashAlgorithmName? HashOfRsa(string algorithm) => algorithm switch
    {
        "1.2.840.113549.1.1.5" => HashAlgorithmName.SHA1,
        "1.2.840.113549.1.1.11" => HashAlgorithmName.SHA256,
        "1.2.840.113549.1.1.12" => HashAlgorithmName.SHA384,
        "1.2.840.113549.1.1.13" => HashAlgorithmName.SHA512,
        _ => null
    };

    private static HashAlgorithmName? HashOfEcdsa(string algorithm) => algorithm switch
    {
        "1.2.840.10045.4.3.2" => HashAlgorithmName.SHA256,
        "1.2.840.10045.4.3.3" => HashAlgorithmName.SHA384,
        "1.2.840.10045.4.3.4" => HashAlgorithmName.SHA512,
        _ => null
    };

    private static byte[] SignedPartDigest(X509Certificate2 certificate)
    {
        try
        {
            return SHA256.HashData(
                new AsnReader(certificate.RawDataMemory, AsnEncodingRules.DER).ReadSequence().ReadEncodedValue().Span);
        }
        catch (AsnContentException)
        {
            return [];
        }
    }
}

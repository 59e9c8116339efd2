using System.Formats.Asn1;
using System.Security.Cryptography;
using System.Security.Cryptography.Pkcs;
using System.Security.Cryptography.X509Certificates;

namespace Keel.Core.Programs;

/// <summary>The signature that a program carries in itself (Microsoft Authenticode, PKCS #7).</summary>
/// <param name="Algorithm">The digest that the signature is over.</param>
/// <param name="Digest">The digest of the content that was signed.</param>
/// <param name="Signer">Whose certificate signed it.</param>
/// <param name="Expires">When that certificate expires.</param>
/// <param name="IsIntact">Whether the signature fits what it signs; whom it comes from is not judged.</param>
public sealed record ProgramSignature(
    HashAlgorithmName Algorithm,
    byte[] Digest,
    string Signer,
    DateTimeOffset Expires,
    bool IsIntact)
{
    /// <summary>Whose certificate signed it, and under which root.</summary>
    public FileSigner By { get; private init; } = new(Signer, IsMicrosofts: false);

    private const string IndirectData = "1.3.6.1.4.1.311.2.1.4";

    /// <summary>Reads a signature; nothing where it can't be understood.</summary>
    public static ProgramSignature? TryRead(ReadOnlySpan<byte> pkcs7)
    {
        try
        {
            var cms = new SignedCms();
            cms.Decode(pkcs7);
            if (cms.ContentInfo.ContentType.Value != IndirectData || cms.SignerInfos.Count == 0) return null;
            var (algorithm, digest) = DigestIn(cms.ContentInfo.Content);
            var certificate = cms.SignerInfos[0].Certificate;
            return new ProgramSignature(
                algorithm,
                digest,
                certificate?.GetNameInfo(X509NameType.SimpleName, forIssuer: false) ?? "somebody unnamed",
                certificate is null ? default : new DateTimeOffset(certificate.NotAfter.ToUniversalTime()),
                IsSound(cms))
            { By = MicrosoftRoots.SignerOf(cms) };
        }
        catch (Exception e) when (e is CryptographicException or AsnContentException)
        {
            return null;
        }
    }

    private static bool IsSound(SignedCms cms)
    {
        try
        {
            cms.CheckSignature(verifySignatureOnly: true);
            return true;
        }
        catch (CryptographicException)
        {
            return false;
        }
    }

    /// <summary>SpcIndirectDataContent: a description of what is signed, and behind it algorithm and digest.</summary>
    private static (HashAlgorithmName Algorithm, byte[] Digest) DigestIn(byte[] content)
    {
        var reader = new AsnReader(content, AsnEncodingRules.BER);
        var whole = reader.ReadSequence();
        var parts = reader.HasData ? new AsnReader(content, AsnEncodingRules.BER) : whole;
        parts.ReadEncodedValue();
        var info = parts.ReadSequence();
        var algorithm = info.ReadSequence().ReadObjectIdentifier();
        return (NameOf(algorithm), info.ReadOctetString());
    }

    private static HashAlgorithmName NameOf(string oid) => oid switch
    {
        "1.3.14.3.2.26" => HashAlgorithmName.SHA1,
        "2.16.840.1.101.3.4.2.1" => HashAlgorithmName.SHA256,
        "2.16.840.1.101.3.4.2.2" => HashAlgorithmName.SHA384,
        "2.16.840.1.101.3.4.2.3" => HashAlgorithmName.SHA512,
        _ => throw new CryptographicException($"the digest {oid} is not known")
    };
}

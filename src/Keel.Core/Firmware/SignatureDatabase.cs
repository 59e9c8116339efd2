using Keel.Core.Blocks;

namespace Keel.Core.Firmware;

/// <summary>
/// Whom a firmware trusts, or does not: certificates and digests of programs (UEFI specification, "Secure Boot and Driver
/// Signing").
/// </summary>
/// <param name="Certificates">X.509 certificates, DER.</param>
/// <param name="Programs">SHA-256 digests of programs, as Authenticode takes them.</param>
/// <param name="CertificateDigests">SHA-256 digests of the signed part of certificates.</param>
public sealed record SignatureDatabase(
    IReadOnlyList<byte[]> Certificates,
    IReadOnlyList<byte[]> Programs,
    IReadOnlyList<byte[]> CertificateDigests)
{
    private const int OwnerBytes = 16, DigestBytes = 32, CountLimit = 65536;

    private static readonly Guid Certificate = new("a5c059a1-94e4-4aa7-87b5-ab155c2bf072");
    private static readonly Guid Program = new("c1c41626-504c-4092-aca9-41f936934328");
    private static readonly Guid CertificateDigest = new("3bd2a492-96c0-4079-b420-fcf98ef103ed");

    /// <summary>A database with nothing in it.</summary>
    public static SignatureDatabase Empty { get; } = new([], [], []);

    /// <summary>Reads the lists of a variable, as far as they are sound; kinds that are not known are passed over.</summary>
    /// <param name="data">The variable's data, without its attributes.</param>
    public static SignatureDatabase Read(ReadOnlySpan<byte> data)
    {
        var (certificates, programs, digests) = (new List<byte[]>(), new List<byte[]>(), new List<byte[]>());
        for (var count = 0; data.Length >= SignatureListRecord.Size && count < CountLimit;)
        {
            var list = data.At<SignatureListRecord>(0);
            var start = SignatureListRecord.Size + (long)list.HeaderBytes;
            if (list.ListBytes > data.Length || start > list.ListBytes || list.SignatureBytes <= OwnerBytes) break;
            var kept = list.Kind == Certificate ? certificates
                : list.Kind == Program ? programs
                : list.Kind == CertificateDigest ? digests
                : null;
            for (var at = start; at + list.SignatureBytes <= list.ListBytes && count < CountLimit; at += list.SignatureBytes)
            {
                kept?.Add(data.Slice((int)at + OwnerBytes, (int)list.SignatureBytes - OwnerBytes).ToArray());
                count++;
            }

            count++;
            data = data[(int)list.ListBytes..];
        }

        return new SignatureDatabase(
            certificates,
            [.. programs.Where(digest => digest.Length == DigestBytes)],
            [.. digests.Where(digest => digest.Length >= DigestBytes).Select(digest => digest[..DigestBytes])]);
    }

    /// <summary>Whether a program's digest is in it.</summary>
    public bool HasProgram(ReadOnlySpan<byte> digest)
    {
        foreach (var known in Programs)
        {
            if (digest.SequenceEqual(known)) return true;
        }

        return false;
    }

    /// <summary>Whether a certificate is in it, or the digest of its signed part.</summary>
    public bool HasCertificate(ReadOnlySpan<byte> certificate, ReadOnlySpan<byte> digest)
    {
        foreach (var known in Certificates)
        {
            if (certificate.SequenceEqual(known)) return true;
        }

        foreach (var known in CertificateDigests)
        {
            if (digest.SequenceEqual(known)) return true;
        }

        return false;
    }
}

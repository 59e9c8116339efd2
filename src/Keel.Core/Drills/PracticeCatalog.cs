using System.Formats.Asn1;
using System.Security.Cryptography;
using System.Security.Cryptography.Pkcs;
using System.Security.Cryptography.X509Certificates;

namespace Keel.Core.Drills;

/// <summary>A catalog of stand-in files, signed by a practice authority whose key protects nothing.</summary>
internal static class PracticeCatalog
{
    private const string Resource = "Drills/practice-signing.pem", Sha256Id = "2.16.840.1.101.3.4.2.1";
    private const string CatalogListId = "1.3.6.1.4.1.311.12.1.1", MemberId = "1.3.6.1.4.1.311.12.1.2";
    private const string ProgramDataId = "1.3.6.1.4.1.311.2.1.15";

    /// <summary>The bytes of a catalog that lists files as a whole, by SHA-256.</summary>
    /// <param name="files">The contents of the files.</param>
    /// <param name="made">When it says that it was made.</param>
    public static byte[] Of(IEnumerable<byte[]> files, DateTimeOffset made) =>
        OfDigests([.. files.Select(SHA256.HashData)], made);

    /// <summary>The same of digests that are there already.</summary>
    public static byte[] OfDigests(IReadOnlyList<byte[]> digests, DateTimeOffset made)
    {
        using var stream = typeof(PracticeCatalog).Assembly.GetManifestResourceStream(Resource)!;
        using var reader = new StreamReader(stream);
        var pem = reader.ReadToEnd();
        using var certificate = X509Certificate2.CreateFromPem(pem, pem);
        var list = List(digests, made);
        var cms = new SignedCms(new ContentInfo(new Oid(Programs.Catalog.TrustList), list));
        cms.ComputeSignature(new CmsSigner(certificate) { IncludeOption = X509IncludeOption.EndCertOnly });
        return cms.Encode();
    }

    private static byte[] List(IReadOnlyList<byte[]> digests, DateTimeOffset made)
    {
        var writer = new AsnWriter(AsnEncodingRules.DER);
        using (writer.PushSequence())
        {
            using (writer.PushSequence()) writer.WriteObjectIdentifier(CatalogListId);
            writer.WriteOctetString(digests[0].AsSpan(0, 16));
            writer.WriteUtcTime(made);
            using (writer.PushSequence())
            {
                writer.WriteObjectIdentifier(MemberId);
                writer.WriteNull();
            }

            using (writer.PushSequence())
            {
                foreach (var digest in digests) AddMember(writer, digest);
            }
        }

        return writer.Encode();
    }

    private static void AddMember(AsnWriter writer, byte[] digest)
    {
        using var member = writer.PushSequence();
        writer.WriteOctetString(System.Text.Encoding.Unicode.GetBytes(Convert.ToHexString(digest) + "\0"));
        using var attributes = writer.PushSetOf();
        using var attribute = writer.PushSequence();
        writer.WriteObjectIdentifier(Programs.Catalog.IndirectData);
        using var values = writer.PushSetOf();
        using var data = writer.PushSequence();
        using (writer.PushSequence()) writer.WriteObjectIdentifier(ProgramDataId);
        using var info = writer.PushSequence();
        using (writer.PushSequence())
        {
            writer.WriteObjectIdentifier(Sha256Id);
            writer.WriteNull();
        }

        writer.WriteOctetString(digest);
    }
}

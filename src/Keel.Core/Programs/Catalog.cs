using System.Formats.Asn1;
using System.Security.Cryptography;
using System.Security.Cryptography.Pkcs;

namespace Keel.Core.Programs;

/// <summary>
/// A catalog: a signed list of digests, of programs as Authenticode takes them, and of other files as a whole (a certificate
/// trust list of MS-CAESO in PKCS #7).
/// </summary>
/// <param name="Signer">Whose certificate signed it.</param>
/// <param name="Digests">The digests that it lists, SHA-1 or SHA-256.</param>
public sealed record Catalog(string Signer, IReadOnlyList<byte[]> Digests)
{
    internal const string TrustList = "1.3.6.1.4.1.311.10.1", IndirectData = "1.3.6.1.4.1.311.2.1.4";
    private const int MembersLimit = 100_000;

    /// <summary>Whose certificate signed it, and under which root.</summary>
    public FileSigner By { get; private init; } = new(Signer, IsMicrosofts: false);

    /// <summary>Whether a digest is listed.</summary>
    public bool Lists(ReadOnlySpan<byte> digest)
    {
        foreach (var listed in Digests)
        {
            if (digest.SequenceEqual(listed)) return true;
        }

        return false;
    }

    /// <summary>
    /// Reads a catalog; null where it is none, or where its signature does not fit what it lists. Whom it comes from is not
    /// judged.
    /// </summary>
    public static Catalog? TryRead(ReadOnlySpan<byte> bytes)
    {
        try
        {
            var cms = new SignedCms();
            cms.Decode(bytes);
            if (cms.ContentInfo.ContentType.Value != TrustList || cms.SignerInfos.Count == 0) return null;
            cms.CheckSignature(verifySignatureOnly: true);
            var signer = MicrosoftRoots.SignerOf(cms);
            return new Catalog(signer.Name, [.. DigestsIn(cms.ContentInfo.Content)]) { By = signer };
        }
        catch (Exception e) when (e is CryptographicException or AsnContentException)
        {
            return null;
        }
    }

    /// <summary>
    /// The members stand in the only sequence of sequences that begin with an octet string; what stands before it differs.
    /// </summary>
    private static List<byte[]> DigestsIn(byte[] content)
    {
        var found = new List<byte[]>();
        var list = new AsnReader(content, AsnEncodingRules.BER).ReadSequence();
        while (list.HasData)
        {
            if (list.PeekTag() != Asn1Tag.Sequence)
            {
                list.ReadEncodedValue();
                continue;
            }

            var members = list.ReadSequence();
            while (members.HasData && members.PeekTag() == Asn1Tag.Sequence && found.Count < MembersLimit)
            {
                var member = members.ReadSequence();
                if (!member.HasData || member.PeekTag() != Asn1Tag.PrimitiveOctetString) break;
                member.ReadOctetString();
                if (member.HasData) AddDigests(member.ReadSetOf(), found);
            }
        }

        return found;
    }

    private static void AddDigests(AsnReader attributes, List<byte[]> found)
    {
        while (attributes.HasData)
        {
            var attribute = attributes.ReadSequence();
            if (attribute.ReadObjectIdentifier() != IndirectData) continue;
            var data = attribute.ReadSetOf().ReadSequence();
            data.ReadEncodedValue();
            var digest = data.ReadSequence();
            digest.ReadEncodedValue();
            found.Add(digest.ReadOctetString());
        }
    }
}

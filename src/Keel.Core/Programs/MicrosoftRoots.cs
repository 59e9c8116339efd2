using System.Security.Cryptography;
using System.Security.Cryptography.Pkcs;
using System.Security.Cryptography.X509Certificates;

namespace Keel.Core.Programs;

/// <summary>The roots under which Windows is signed; most signatures name theirs, and few have it with them.</summary>
internal static class MicrosoftRoots
{
    private static readonly string[] Thumbprints =
    [
        "CDD4EEAE6000AC7F40C3802C171E30148030C072",     // 2001
        "3B1EFD3A66EA28B16697394703A72CA340A05BD5",     // 2010
        "8F43288AD272F3103B6FB1428485EA3014C0BCFE",     // 2011
        "A43489159A520F0D93D032CCAF37E7FE20A8B419"      // 1997, old drivers
    ];

    private static readonly string[] Names =
    [
        "Microsoft Root Certificate Authority", "Microsoft Root Certificate Authority 2010",
        "Microsoft Root Certificate Authority 2011", "Microsoft Root Authority"
    ];

    /// <summary>Who signed, and whether it leads there: by the root itself, or by the name of the last one's issuer.</summary>
    public static FileSigner SignerOf(SignedCms cms)
    {
        const int longest = 8;
        var certificate = cms.SignerInfos[0].Certificate;
        var name = certificate?.GetNameInfo(X509NameType.SimpleName, forIssuer: false) ?? "somebody unnamed";
        for (var count = 0; certificate is not null && count < longest; count++)
        {
            if (Thumbprints.Contains(Convert.ToHexString(certificate.GetCertHash(HashAlgorithmName.SHA1))))
                return new FileSigner(name, IsMicrosofts: true);
            var child = certificate;
            var issuer = cms.Certificates.FirstOrDefault(other => !other.Equals(child)
                && other.SubjectName.RawData.AsSpan().SequenceEqual(child.IssuerName.RawData));
            if (issuer is null)
                return new FileSigner(name, Names.Contains(child.GetNameInfo(X509NameType.SimpleName, forIssuer: true)));
            certificate = issuer;
        }

        return new FileSigner(name, IsMicrosofts: false);
    }
}

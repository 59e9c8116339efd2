using System.Buffers.Binary;
using System.Runtime.InteropServices;
using System.Security.Cryptography;
using Keel.Core.Blocks;
using Keel.Core.Facts;

namespace Keel.Core.Programs;

/// <summary>What the whole content of a program says: whether its checksum fits, and whether its signature does.</summary>
/// <param name="ChecksumFits">Null where the program carries no checksum.</param>
/// <param name="Signature">Null where it carries none, as most files of Windows do: theirs are in catalogs.</param>
/// <param name="DigestFits">Whether the signed digest is that of the content; null without a signature.</param>
public sealed record ProgramContent(bool? ChecksumFits, ProgramSignature? Signature, bool? DigestFits)
{
    private const int PieceBytes = 256 * 1024, HeadBytes = 4096;
    private const int NewHeaderAt = 0x3C, OptionalAt = 24, ChecksumAt = 64, MagicPlus = 0x20B;

    private const int CertificatesAtPlus =
        144, CertificatesAt32 = 128, CertificateHeaderBytes = 8, SignatureLimitBytes = 1024 * 1024;

    /// <summary>Whether something is plainly not as it was made.</summary>
    public bool IsAltered => ChecksumFits == false || DigestFits == false || Signature is { IsIntact: false };

    /// <summary>What is known.</summary>
    public Remark Says => (ChecksumFits, Signature) switch
    {
        (_, { } signature) when !IsAltered
            => Remark.Of("content.signed", Fact.Signer.Is(signature.Signer), Fact.Expires.Is(signature.Expires)),
        (_, { IsIntact: false }) => Remark.Of("content.signature-damaged"),
        _ when DigestFits == false => Remark.Of("content.not-as-signed"),
        (false, _) => Remark.Of("content.checksum-wrong"),
        (true, _) => Remark.Of("content.checksum-fits"),
        _ => Remark.Of("content.unchecked")
    };

    /// <summary>Reads a program once, from beginning to end.</summary>
    /// <returns>Null where it has no headers to go by.</returns>
    /// <exception cref="Errors.UnreadableException">It can't be read.</exception>
    public static ProgramContent? Read(IReadableBlocks file)
    {
        if (Places.In(file) is not { } places) return null;
        var signature = SignaturesAt(file, places).Select(bytes => ProgramSignature.TryRead(bytes)).FirstOrDefault();
        using var hash = signature is null ? null : IncrementalHash.CreateHash(signature.Algorithm);
        var sum = Sum(file, places, hash);
        return new ProgramContent(
            places.StoredChecksum == 0 ? null : places.StoredChecksum == sum,
            signature,
            signature is null ? null : hash!.GetHashAndReset().AsSpan().SequenceEqual(signature.Digest));
    }

    /// <summary>The digest of what a signature covers (Authenticode); null where the file has no headers to go by.</summary>
    /// <exception cref="Errors.UnreadableException">It can't be read.</exception>
    public static byte[]? DigestOf(IReadableBlocks file, HashAlgorithmName algorithm)
    {
        if (Places.In(file) is not { } places) return null;
        using var hash = IncrementalHash.CreateHash(algorithm);
        Sum(file, places, hash);
        return hash.GetHashAndReset();
    }

    /// <summary>All signatures that a program carries, as PKCS #7.</summary>
    /// <exception cref="Errors.UnreadableException">It can't be read.</exception>
    public static IReadOnlyList<byte[]> SignaturesOf(IReadableBlocks file) =>
        Places.In(file) is { } places ? SignaturesAt(file, places) : [];

    /// <summary>The signatures of the certificate table, each behind a head with its length.</summary>
    private static List<byte[]> SignaturesAt(IReadableBlocks file, Places places)
    {
        const int alignment = 8;
        var found = new List<byte[]>();
        var (start, length) = (places.Certificates.Start, places.Certificates.Length);
        if (length <= CertificateHeaderBytes || start <= 0 || start + length > file.LengthBytes || length > SignatureLimitBytes)
            return found;
        var table = file.ReadBytes(start, (int)length).AsSpan();
        while (table.Length > CertificateHeaderBytes)
        {
            var own = BinaryPrimitives.ReadInt32LittleEndian(table);
            if (own <= CertificateHeaderBytes || own > table.Length) break;
            found.Add(table[CertificateHeaderBytes..own].ToArray());
            table = table[Math.Min(table.Length, (own + alignment - 1) & -alignment)..];
        }

        return found;
    }

    /// <summary>
    /// The checksum of a PE file, a folded sum of its words plus its length; on the way, what Authenticode hashes is hashed.
    /// </summary>
    private static uint Sum(IReadableBlocks file, Places places, IncrementalHash? hash)
    {
        ulong sum = 0;
        var piece = new byte[PieceBytes];
        for (long at = 0; at < file.LengthBytes; at += PieceBytes)
        {
            var count = (int)Math.Min(PieceBytes, file.LengthBytes - at);
            var part = piece.AsSpan(0, count);
            file.Read(at, part);
            if (hash is not null) Append(hash, part, at, places);
            if (at == 0) part.Slice(places.Checksum, sizeof(uint)).Clear();
            if ((count & 1) != 0)
            {
                sum += part[^1];
                part = part[..^1];
            }

            foreach (var word in MemoryMarshal.Cast<byte, ushort>(part)) sum += word;
        }

        while (sum > ushort.MaxValue) sum = (sum & ushort.MaxValue) + (sum >> 16);
        return (uint)sum + (uint)file.LengthBytes;
    }

    private static void Append(IncrementalHash hash, ReadOnlySpan<byte> part, long at, Places places)
    {
        ReadOnlySpan<ByteRange> skipped = [
            new(places.Checksum, sizeof(uint)),
            new(places.CertificateEntry, 8),
            places.Certificates
        ];
        foreach (var skip in skipped)
        {
            var (start, end) = (Math.Clamp(skip.Start - at, 0, part.Length), Math.Clamp(skip.End - at, 0, part.Length));
            if (end <= start) continue;
            hash.AppendData(part[..(int)start]);
            part = part[(int)end..];
            at += end;
        }

        hash.AppendData(part);
    }

    /// <summary>What a signature leaves out, in bytes from the start of the file.</summary>
    private readonly record struct Places(int Checksum, uint StoredChecksum, int CertificateEntry, ByteRange Certificates)
    {
        public static Places? In(IReadableBlocks file)
        {
            var head = file.ReadBytes(0, (int)Math.Min(HeadBytes, file.LengthBytes));
            if (head.Length < NewHeaderAt + 4) return null;
            var optional = BinaryPrimitives.ReadInt32LittleEndian(head.AsSpan(NewHeaderAt)) + OptionalAt;
            return optional < OptionalAt || optional + CertificatesAtPlus + 8 > head.Length ? null : Read(head, optional);
        }

        private static Places Read(ReadOnlySpan<byte> head, int optional)
        {
            var entry = optional
                + (BinaryPrimitives.ReadUInt16LittleEndian(head[optional..]) == MagicPlus
                    ? CertificatesAtPlus
                    : CertificatesAt32);
            return new Places(
                optional + ChecksumAt,
                BinaryPrimitives.ReadUInt32LittleEndian(head[(optional + ChecksumAt)..]),
                entry,
                new ByteRange(
                    BinaryPrimitives.ReadUInt32LittleEndian(head[entry..]),
                    BinaryPrimitives.ReadUInt32LittleEndian(head[(entry + 4)..])));
        }
    }
}

using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Keel.Core.Blocks;

namespace Keel.Core.Sticks;

/// <summary>
/// The checksum that keel's rescue medium carries of itself, in the volume descriptor's field for programs: "keel-sum 1 LENGTH
/// SHA-256". It covers the image from its sector 16 on, the field itself as zeros; what lies before may change with the table.
/// </summary>
/// <param name="LengthBytes">How long the image is.</param>
/// <param name="Sha256">In small hexadecimal digits.</param>
public sealed record MediumSum(long LengthBytes, string Sha256)
{
    private const string Mark = "keel-sum", Version = "1";
    private const int FieldAt = IsoVolumeRecord.AtBytes + IsoVolumeRecord.ProgramFieldAt, PieceBytes = 1024 * 1024;

    /// <summary>What the medium says of itself; null where it says nothing.</summary>
    public static MediumSum? Of(IReadableBlocks blocks)
    {
        if (blocks.LengthBytes < FieldAt + IsoVolumeRecord.ProgramFieldBytes) return null;
        var text = Encoding.ASCII.GetString(blocks.ReadBytes(FieldAt, IsoVolumeRecord.ProgramFieldBytes)).TrimEnd('\0', ' ');
        return text.Split(' ') is [Mark, Version, var length, { Length: 64 } sum]
            && long.TryParse(length, NumberStyles.None, CultureInfo.InvariantCulture, out var bytes)
            && bytes > IsoVolumeRecord.AtBytes
            ? new MediumSum(bytes, sum)
            : null;
    }

    /// <summary>Whether the medium still is what the checksum was made of.</summary>
    /// <param name="blocks">The image, or a stick that it was written to.</param>
    /// <param name="progress">Told how many bytes were read by now.</param>
    public bool Fits(IReadableBlocks blocks, Action<long> progress)
    {
        if (blocks.LengthBytes < LengthBytes) return false;
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var buffer = new byte[PieceBytes];
        for (long at = IsoVolumeRecord.AtBytes; at < LengthBytes;)
        {
            var piece = buffer.AsSpan(0, (int)Math.Min(PieceBytes, LengthBytes - at));
            blocks.Read(at, piece);
            if (at == IsoVolumeRecord.AtBytes)
                piece.Slice(IsoVolumeRecord.ProgramFieldAt, IsoVolumeRecord.ProgramFieldBytes).Clear();
            hash.AppendData(piece);
            at += piece.Length;
            progress(at);
        }

        return Convert.ToHexStringLower(hash.GetHashAndReset()) == Sha256;
    }
}

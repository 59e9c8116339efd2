using System.Security.Cryptography;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Volumes;

namespace Keel.Core.Programs;

/// <summary>
/// What one reading of a file says of it: its own signature, and the digests by which a catalog would list it.
/// </summary>
/// <param name="Path">From the top of its volume.</param>
/// <param name="File">Size and times.</param>
internal sealed record FileReading(string Path, VolumeFile File)
{
    private const int LimitBytes = 256 * 1024 * 1024;

    /// <summary>Of a program as Authenticode takes it, of anything as a whole.</summary>
    public IReadOnlyList<byte[]> Digests { get; private init; } = [];

    /// <summary>Whose signature it carries, where that fits; null where it carries none, or another.</summary>
    public FileSigner? Signer { get; private init; }

    /// <summary>What is plainly wrong with it; null where nothing is.</summary>
    public Remark? Wrong { get; private init; }

    /// <summary>Whether the disk gave it.</summary>
    public bool IsRead { get; private init; }

    public Version? Version { get; private init; }

    /// <summary>Whether it is a program, of whatever kind.</summary>
    public bool IsProgram { get; private init; }

    /// <summary>Whether it is a difference to another file, as the component store keeps of older versions.</summary>
    public bool IsDifference { get; private init; }

    /// <summary>Whether what is in it is kept elsewhere, as in a cloud, and was not read.</summary>
    public bool IsKeptElsewhere => File.IsElsewhere;

    /// <summary>Reads a file once.</summary>
    public static FileReading Of(IVolume files, string path, VolumeFile file)
    {
        var reading = new FileReading(path, file);
        if (reading.IsKeptElsewhere) return reading;
        try
        {
            return reading.With(files.ReadFile(path, LimitBytes));
        }
        catch (KeelException e)
        {
            return reading with { Wrong = e.AsRemark() };
        }
    }

    /// <summary>Such files begin with a mark of their own, or have it behind a checksum.</summary>
    private static bool IsDelta(ReadOnlySpan<byte> bytes)
    {
        const int checksumBytes = 4;
        return bytes.Length > 2 * checksumBytes
            && (IsDeltaMark(bytes) || IsDeltaMark(bytes[checksumBytes..]));
    }

    private static bool IsDeltaMark(ReadOnlySpan<byte> bytes) =>
        bytes.StartsWith("PA30"u8) || bytes.StartsWith("PA31"u8) || (bytes[0] == 'D' && bytes[1] == 'C' && bytes[3] == 1);

    /// <summary>The same of contents that are there.</summary>
    public FileReading With(byte[] bytes)
    {
        var blocks = new MemoryBlocks(bytes);
        var read = this with { IsRead = true };
        if (IsDelta(bytes)) return read with { IsDifference = true };
        if (bytes.Length > 0 && !bytes.AsSpan().ContainsAnyExcept((byte)0)) return read with { Wrong = Remark.Of("proof.zeros") };
        if (ProgramFile.TryRead(blocks) is not { } program || ProgramContent.Read(blocks) is not { } content)
            return read with { Digests = [SHA256.HashData(bytes), CatalogSearch.Sha1(bytes)] };
        read = read with { IsProgram = true, Version = ProgramFile.VersionOf(blocks) };
        if (program.NeededBytes > bytes.Length) return read with { Wrong = Remark.Of("proof.cut-short") };
        byte[]?[] digests =
        [
            ProgramContent.DigestOf(blocks, HashAlgorithmName.SHA256),
            ProgramContent.DigestOf(blocks, HashAlgorithmName.SHA1),
            SHA256.HashData(bytes)
        ];
        return read with
        {
            Digests = [.. digests.OfType<byte[]>()],
            Signer = content is { IsAltered: false, DigestFits: true, Signature: { } signature } ? signature.By : null,
            Wrong = content.IsAltered ? content.Says : null
        };
    }
}

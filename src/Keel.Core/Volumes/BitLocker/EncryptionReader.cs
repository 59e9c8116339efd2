using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>Reads what an encrypted volume says of itself without a key.</summary>
public static class EncryptionReader
{
    /// <summary>Whether a volume begins as an encrypted one does, in either form.</summary>
    public static bool IsOne(ReadOnlySpan<byte> sector) => EncryptionHeader.TryRead(sector) is not null;

    /// <summary>What the volume tells; null where it is none, or nothing of its metadata is whole.</summary>
    /// <exception cref="ReadFailedException">The disk does not give its first sector, or none of its metadata.</exception>
    public static EncryptionFacts? Read(IReadableBlocks volume)
    {
        if (volume.LengthBytes < EncryptionHeader.Bytes) return null;
        if (EncryptionHeader.TryRead(volume.ReadBytes(0, EncryptionHeader.Bytes)) is not { } header) return null;
        var blocks = EncryptionMetadata.ReadAll(volume, header);
        return blocks.Count == 0 ? null : Describe(blocks, header);
    }

    /// <summary>The same, where the disk gives it; null where it does not.</summary>
    public static EncryptionFacts? TryRead(IReadableBlocks volume)
    {
        try
        {
            return Read(volume);
        }
        catch (KeelException)
        {
            return null;
        }
    }

    internal static EncryptionFacts Describe(IReadOnlyList<EncryptionMetadata> blocks, EncryptionHeader header)
    {
        var best = blocks[0];
        var protectors = SealedMasterKey.In(best).Select(one => one.Protector).ToList();
        var description = best.Entries
            .Where(entry => entry is { What: KeyEntry.ForDescription, Form: KeyEntry.Text })
            .Select(entry => Encoding.Unicode.GetString(entry.Data.Span).TrimEnd('\0'))
            .FirstOrDefault("");
        return new EncryptionFacts(
            EncryptionMethod.NameOf(best.Method),
            StateOf(best, header.IsOnWrite, protectors),
            best.Time,
            description,
            protectors,
            [.. blocks.Select(block => block.Number).Order()],
            header.IsToGo,
            header.IsOnWrite,
            best.EncryptedBytes);
    }

    private static EncryptionState StateOf(EncryptionMetadata block, bool isOnWrite, IReadOnlyList<Protector> protectors)
    {
        if (block.State != block.NextState) return EncryptionState.Converting;
        if (protectors.Any(one => one.Kind == ProtectorKind.Clear)) return EncryptionState.Suspended;
        if (isOnWrite) return EncryptionState.OnWrite;
        return block.State == EncryptionMetadata.Encrypted ? EncryptionState.On : EncryptionState.Unknown;
    }
}

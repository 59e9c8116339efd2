using System.Buffers.Binary;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>The volume's master key as one protector seals it.</summary>
/// <param name="Protector">The protector.</param>
/// <param name="Entries">What seals it: a salt, the sealed key, or the key in the clear.</param>
internal sealed record SealedMasterKey(Protector Protector, IReadOnlyList<KeyEntry> Entries)
{
    private const int TimeAt = 16, KindAt = 26, EntriesAt = 28;

    /// <summary>Before the salt: what it is stretched by.</summary>
    private const int SaltAt = 4;

    /// <summary>The salt of a stretched key; null where it is none, or too short.</summary>
    public ReadOnlyMemory<byte>? Salt => Entries.Where(entry => entry.Form == KeyEntry.Stretched)
        .Select(entry => entry.Data)
        .FirstOrDefault(data => data.Length >= SaltAt + Keys.KeyStretching.SaltBytes) is { Length: > 0 } data
            ? data.Slice(SaltAt, Keys.KeyStretching.SaltBytes)
            : null;

    /// <summary>The sealed keys, one of which is the master key.</summary>
    public IEnumerable<KeyEntry> Sealed => Entries.Where(entry => entry.Form == KeyEntry.Sealed);

    /// <summary>The key in the clear, where protection is suspended.</summary>
    public IEnumerable<KeyEntry> Plain => Entries.Where(entry => entry.Form == KeyEntry.PlainKey);

    /// <summary>Those of a block, in its order.</summary>
    public static IEnumerable<SealedMasterKey> In(EncryptionMetadata metadata) => metadata.Entries
        .Where(entry => entry is { What: KeyEntry.ForMasterKey, Form: KeyEntry.MasterKey } && entry.Data.Length >= EntriesAt)
        .Select(entry => new SealedMasterKey(ProtectorOf(entry.Data.Span), [.. KeyEntry.In(entry.Data[EntriesAt..])]));

    private static Protector ProtectorOf(ReadOnlySpan<byte> data) => new(
        new Guid(data[..TimeAt]),
        KindOf(BinaryPrimitives.ReadUInt16LittleEndian(data[KindAt..])),
        EncryptionMetadata.TimeOf(BinaryPrimitives.ReadInt64LittleEndian(data[TimeAt..])));

    private static ProtectorKind KindOf(ushort number) => number switch
    {
        0x0000 => ProtectorKind.Clear,
        0x0100 => ProtectorKind.Tpm,
        0x0200 => ProtectorKind.StartupKey,
        0x0500 => ProtectorKind.TpmAndPin,
        0x0800 => ProtectorKind.RecoveryKey,
        0x1000 => ProtectorKind.SmartCard,
        0x2000 => ProtectorKind.Password,
        _ => ProtectorKind.Other
    };
}

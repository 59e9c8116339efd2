using System.Buffers.Binary;
using System.Security.Cryptography;
using System.Text;
using Keel.Core.Keys;
using Keel.Core.Volumes.BitLocker;

namespace Keel.Core.Drills;

/// <summary>Writes the metadata of an encrypted practice volume, as libbde and cryptsetup describe them.</summary>
/// <param name="spec">The machine.</param>
/// <param name="method">The number of the method.</param>
/// <param name="isSuspended">Whether the key lies beside in the clear.</param>
internal sealed class PracticeMetadata(PracticeSpec spec, ushort method, bool isSuspended)
{
    /// <summary>How much of the plain volume's beginning lies elsewhere, in bytes.</summary>
    public const int HeadBytes = 8192;

    private const int BlockHeadBytes = 64, InnerHeadBytes = 48, KeyHeadBytes = 12, NonceBytes = 12, TagBytes = 16;
    private const ushort MovedHead = 0xF, Validation = 0xB, TpmForm = 6;
    private const uint MasterMethod = 0x2003;
    private readonly PracticeKeys keys = new(spec.MachineName);
    private int nonces;

    /// <summary>The first sector of the volume.</summary>
    public byte[] FirstSector(IReadOnlyList<long> places)
    {
        const int idAt = 0xA0;
        var sector = new byte[EncryptionHeader.Bytes];
        ((byte[])[0xEB, 0x58, 0x90]).CopyTo(sector, 0);
        EncryptionHeader.Mark.CopyTo(sector.AsSpan(3));
        BinaryPrimitives.WriteUInt16LittleEndian(sector.AsSpan(11), (ushort)spec.SectorBytes);
        sector[13] = (byte)(4096 / spec.SectorBytes);
        sector[21] = 0xF8;
        new Guid("4967D63B-2E29-4AD8-8399-F6A339E3D001").TryWriteBytes(sector.AsSpan(idAt));
        for (var number = 0; number < places.Count; number++)
            BinaryPrimitives.WriteInt64LittleEndian(sector.AsSpan(idAt + 16 + (number * sizeof(long))), places[number]);
        sector[510] = 0x55;
        sector[511] = 0xAA;
        return sector;
    }

    /// <summary>A block with its check; all three are the same.</summary>
    /// <param name="places">Where the blocks lie.</param>
    /// <param name="movedAt">Where the moved beginning lies.</param>
    /// <param name="volumeBytes">The length of the volume.</param>
    public byte[] Block(IReadOnlyList<long> places, long movedAt, long volumeBytes)
    {
        nonces = 0;
        byte[] entries = [.. Description(), .. Protectors(), .. VolumeKey(), .. Moved(movedAt)];
        var inner = InnerHead(InnerHeadBytes + entries.Length);
        var length = (BlockHeadBytes + inner.Length + entries.Length + 15) / 16 * 16;
        var block = new byte[length + 8];
        BlockHead(length, places, movedAt, volumeBytes).CopyTo(block, 0);
        inner.CopyTo(block, BlockHeadBytes);
        entries.CopyTo(block, BlockHeadBytes + InnerHeadBytes);
        BinaryPrimitives.WriteUInt16LittleEndian(block.AsSpan(length), 8);
        BinaryPrimitives.WriteUInt16LittleEndian(block.AsSpan(length + 2), 2);
        System.IO.Hashing.Crc32.Hash(block.AsSpan(0, length), block.AsSpan(length + 4));
        const uint ofSum = 0x2005;
        return [.. block, .. Sealed(Validation, keys.Master, KeyBlob(SHA256.HashData(block.AsSpan(0, length)), ofSum))];
    }

    private byte[] BlockHead(int length, IReadOnlyList<long> places, long movedAt, long volumeBytes)
    {
        var head = new byte[BlockHeadBytes];
        EncryptionHeader.Mark.CopyTo(head);
        BinaryPrimitives.WriteUInt16LittleEndian(head.AsSpan(0x08), (ushort)(length / 16));
        BinaryPrimitives.WriteUInt16LittleEndian(head.AsSpan(0x0A), 2);
        BinaryPrimitives.WriteUInt16LittleEndian(head.AsSpan(0x0C), EncryptionMetadata.Encrypted);
        BinaryPrimitives.WriteUInt16LittleEndian(head.AsSpan(0x0E), EncryptionMetadata.Encrypted);
        BinaryPrimitives.WriteInt64LittleEndian(head.AsSpan(0x10), volumeBytes);
        BinaryPrimitives.WriteInt32LittleEndian(head.AsSpan(0x1C), HeadBytes / spec.SectorBytes);
        for (var number = 0; number < places.Count; number++)
            BinaryPrimitives.WriteInt64LittleEndian(head.AsSpan(0x20 + (number * sizeof(long))), places[number]);
        BinaryPrimitives.WriteInt64LittleEndian(head.AsSpan(0x38), movedAt);
        return head;
    }

    private byte[] InnerHead(int size)
    {
        const uint nextNonce = 100;
        var head = new byte[InnerHeadBytes];
        BinaryPrimitives.WriteInt32LittleEndian(head, size);
        BinaryPrimitives.WriteInt32LittleEndian(head.AsSpan(4), 1);
        BinaryPrimitives.WriteInt32LittleEndian(head.AsSpan(8), InnerHeadBytes);
        BinaryPrimitives.WriteInt32LittleEndian(head.AsSpan(12), size);
        keys.Id("volume").TryWriteBytes(head.AsSpan(16));
        BinaryPrimitives.WriteUInt32LittleEndian(head.AsSpan(32), nextNonce);
        BinaryPrimitives.WriteUInt16LittleEndian(head.AsSpan(36), method);
        BinaryPrimitives.WriteInt64LittleEndian(head.AsSpan(40), spec.Made.ToFileTime());
        return head;
    }

    private byte[] Description() => Entry(
        KeyEntry.ForDescription,
        KeyEntry.Text,
        Encoding.Unicode.GetBytes($"{spec.MachineName} Windows {spec.Made:yyyy-MM-dd}\0"));

    /// <summary>The TPM first, as Windows adds them; then the recovery key, and the clear key while it is suspended.</summary>
    private byte[] Protectors()
    {
        using var stretched = KeyStretching.Of(keys.Recovery, keys.Salt);
        byte[] salt = [.. BitConverter.GetBytes(0x1000), .. keys.Salt];
        byte[] recovery =
        [
            .. Entry(0, KeyEntry.Stretched, salt),
            .. Sealed(0, stretched.Bytes, KeyBlob(keys.Master, MasterMethod))
        ];
        byte[] clear =
        [
            .. Entry(0, KeyEntry.PlainKey, [.. BitConverter.GetBytes(MasterMethod), .. keys.Clear]),
            .. Sealed(0, keys.Clear, KeyBlob(keys.Master, MasterMethod))
        ];
        return
        [
            .. Protector("tpm", 0x0100, Entry(0, TpmForm, new byte[200])),
            .. Protector("recovery key", 0x0800, recovery),
            .. isSuspended ? Protector("clear key", 0x0000, clear) : []
        ];
    }

    private byte[] Protector(string id, ushort kind, byte[] entries)
    {
        var head = new byte[28];
        keys.Id(id).TryWriteBytes(head);
        BinaryPrimitives.WriteInt64LittleEndian(head.AsSpan(16), spec.Made.ToFileTime());
        BinaryPrimitives.WriteUInt16LittleEndian(head.AsSpan(26), kind);
        return Entry(KeyEntry.ForMasterKey, KeyEntry.MasterKey, [.. head, .. entries]);
    }

    private byte[] VolumeKey() => Sealed(
        KeyEntry.ForVolumeKey,
        keys.Master,
        KeyBlob(keys.Volume(EncryptionMethod.KeyBytes(method)), method));

    private static byte[] Moved(long at) =>
        Entry(MovedHead, MovedHead, [.. BitConverter.GetBytes(at), .. BitConverter.GetBytes((long)HeadBytes)]);

    private static byte[] KeyBlob(byte[] key, uint method) =>
    [
        .. BitConverter.GetBytes(KeyHeadBytes + key.Length),
        .. BitConverter.GetBytes(1),
        .. BitConverter.GetBytes(method),
        .. key
    ];

    private byte[] Sealed(ushort what, ReadOnlySpan<byte> key, byte[] content)
    {
        byte[] nonce = [.. BitConverter.GetBytes(spec.Made.ToFileTime()), .. BitConverter.GetBytes(++nonces)];
        var (tag, cipher) = (new byte[TagBytes], new byte[content.Length]);
        using var ccm = new AesCcm(key);
        ccm.Encrypt(nonce, content, cipher, tag);
        return Entry(what, KeyEntry.Sealed, [.. nonce.AsSpan(0, NonceBytes), .. tag, .. cipher]);
    }

    private static byte[] Entry(ushort what, ushort form, byte[] data)
    {
        var entry = new byte[KeyEntry.HeadBytes + data.Length];
        BinaryPrimitives.WriteUInt16LittleEndian(entry, (ushort)entry.Length);
        BinaryPrimitives.WriteUInt16LittleEndian(entry.AsSpan(2), what);
        BinaryPrimitives.WriteUInt16LittleEndian(entry.AsSpan(4), form);
        BinaryPrimitives.WriteUInt16LittleEndian(entry.AsSpan(6), 1);
        data.CopyTo(entry, KeyEntry.HeadBytes);
        return entry;
    }
}

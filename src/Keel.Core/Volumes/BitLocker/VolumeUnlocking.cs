using System.Buffers.Binary;
using System.Security.Cryptography;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Keys;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>Opens an encrypted volume: a key opens the master key, that the volume's key, and that its sectors.</summary>
internal static class VolumeUnlocking
{
    private const int NonceBytes = 12, TagBytes = 16, KeyBytes = 32;

    /// <summary>What a key has before it once it is opened: its length, a version, a method.</summary>
    private const int KeyHeadBytes = 12;

    /// <summary>A key in the clear, or of a startup key: before it its method alone.</summary>
    private const int PlainHeadBytes = 4;

    private const int BytesPerSectorAt = 11, LeastSectorBytes = 512, MostSectorBytes = 4096;

    /// <summary>The volume, opened; null where no key fits, or it is in a state in which it can't be read.</summary>
    /// <param name="raw">The volume as it stands on the disk.</param>
    /// <param name="name">How it is called, in what is said about it.</param>
    /// <param name="ring">The keys at hand.</param>
    /// <exception cref="ReadFailedException">The disk does not give what is needed.</exception>
    public static (UnlockedBlocks Blocks, OpenedVolume Opened)? Open(IWritableBlocks raw, string name, KeyRing ring)
    {
        if (raw.LengthBytes < EncryptionHeader.Bytes || !FileSystemLibraries.HasOpenSsl) return null;
        var sector = raw.ReadBytes(0, EncryptionHeader.Bytes);
        if (EncryptionHeader.TryRead(sector) is not { IsOnWrite: false } header) return null;
        var blocks = EncryptionMetadata.ReadAll(raw, header);
        if (blocks.Count == 0) return null;
        var best = blocks[0];
        if (best.State != EncryptionMetadata.Encrypted || best.NextState != EncryptionMetadata.Encrypted) return null;
        var sectorBytes = SectorBytesOf(sector, raw.SectorBytes);
        if (EncryptedPlaces.Of(best, raw.LengthBytes, sectorBytes) is not { } places) return null;
        var opened = ring.Open($"{best.Seal} {sectorBytes}", () => OpenWith(best, ring, sectorBytes));
        return opened is null
            ? null
            : (new UnlockedBlocks(raw, opened.Cipher, places, WhyNotWritten(name, header, blocks)), opened);
    }

    /// <summary>Why nothing is written on it, though it can be read; null where it may be.</summary>
    private static RefusedException? WhyNotWritten(string name, EncryptionHeader header, IReadOnlyList<EncryptionMetadata> blocks)
    {
        const int leastWhole = 2;
        if (header.IsToGo)
        {
            return new RefusedException(
                $"{name} is not written.",
                "It is encrypted in the form for removable disks, with a reader for older systems over its beginning.",
                "Unlock it in Windows, and change its files there.");
        }

        var agreeing = blocks.Count(block => block.Places.SequenceEqual(header.MetadataAt));
        return agreeing >= leastWhole
            ? null
            : new RefusedException(
                $"{name} is not written.",
                $"Of the three blocks of its encryption metadata, {agreeing} {(agreeing == 1 ? "is" : "are")} whole: one more "
                    + "damaged, and nothing opens it again.",
                "Copy its files off first ('keel files take DISK'). Then start Windows, unlock it there, and decrypt it.");
    }

    private static int SectorBytesOf(ReadOnlySpan<byte> sector, int diskSectorBytes)
    {
        var told = BinaryPrimitives.ReadUInt16LittleEndian(sector[BytesPerSectorAt..]);
        return told is >= LeastSectorBytes and <= MostSectorBytes && int.IsPow2(told) ? told : diskSectorBytes;
    }

    private static (OpenedVolume Opened, VolumeKey? By)? OpenWith(
        EncryptionMetadata metadata,
        KeyRing ring,
        int sectorBytes)
    {
        var masters = SealedMasterKey.In(metadata).ToList();
        if (masters.Count == 0 || EncryptionMethod.KeyBytes(metadata.Method) == 0) return null;
        foreach (var master in masters.Where(one => one.Protector.Kind == ProtectorKind.Clear))
        {
            foreach (var plain in master.Plain.Where(entry => entry.Data.Length >= PlainHeadBytes + KeyBytes))
            {
                var key = plain.Data.Slice(PlainHeadBytes, KeyBytes);
                if (Finish(metadata, master, key.Span, sectorBytes) is { } cipher)
                    return (new OpenedVolume(cipher, master.Protector, By: null), null);
            }
        }

        foreach (var key in ring.Keys)
        {
            foreach (var master in masters.Where(one => Fits(key, one.Protector)))
            {
                if (Try(metadata, master, key, sectorBytes) is { } cipher)
                    return (new OpenedVolume(cipher, master.Protector, key.Kind), key);
            }
        }

        return null;
    }

    private static bool Fits(VolumeKey key, Protector protector)
    {
        var isOfKind = key.Kind switch
        {
            VolumeKeyKind.Recovery => protector.Kind == ProtectorKind.RecoveryKey,
            VolumeKeyKind.Password => protector.Kind == ProtectorKind.Password,
            _ => protector.Kind is ProtectorKind.StartupKey or ProtectorKind.Other
        };
        return isOfKind && (key.Protector is not { } told
            || protector.Id.ToString("D").StartsWith(told, StringComparison.OrdinalIgnoreCase));
    }

    private static SectorCipher? Try(
        EncryptionMetadata metadata,
        SealedMasterKey master,
        VolumeKey key,
        int sectorBytes)
    {
        if (key.Kind == VolumeKeyKind.Startup) return Finish(metadata, master, key.Content.Bytes, sectorBytes);
        if (master.Salt is not { } salt) return null;
        using var stretched = KeyStretching.Of(key.Content.Bytes, salt.Span);
        return Finish(metadata, master, stretched.Bytes, sectorBytes);
    }

    /// <summary>Opens the master key, and the volume's with it; the tags of both prove that the key is the right one.</summary>
    private static SectorCipher? Finish(
        EncryptionMetadata metadata,
        SealedMasterKey master,
        ReadOnlySpan<byte> key,
        int sectorBytes)
    {
        var needed = EncryptionMethod.KeyBytes(metadata.Method);
        foreach (var sealedMaster in master.Sealed)
        {
            using var masterKey = Unseal(sealedMaster.Data.Span, key);
            if (masterKey is null || masterKey.Length < KeyHeadBytes + KeyBytes) continue;
            foreach (var entry in metadata.Entries.Where(one => one is { What: KeyEntry.ForVolumeKey, Form: KeyEntry.Sealed }))
            {
                using var volumeKey = Unseal(entry.Data.Span, masterKey.Bytes.Slice(KeyHeadBytes, KeyBytes));
                if (volumeKey is null || volumeKey.Length < KeyHeadBytes + needed) continue;
                return EncryptionMethod.CipherOf(metadata.Method, volumeKey.Bytes[KeyHeadBytes..], sectorBytes);
            }
        }

        return null;
    }

    /// <summary>What AES-CCM seals; null where the key is another, or the seal is broken.</summary>
    private static Secret? Unseal(ReadOnlySpan<byte> data, ReadOnlySpan<byte> key)
    {
        const int mostBytes = 1024;
        var length = data.Length - NonceBytes - TagBytes;
        if (length is <= 0 or > mostBytes) return null;
        var content = new Secret(length);
        try
        {
            using var ccm = new AesCcm(key);
            ccm.Decrypt(data[..NonceBytes], data[(NonceBytes + TagBytes)..], data.Slice(NonceBytes, TagBytes), content.Bytes);
            return content;
        }
        catch (CryptographicException)
        {
            content.Dispose();
            return null;
        }
    }
}

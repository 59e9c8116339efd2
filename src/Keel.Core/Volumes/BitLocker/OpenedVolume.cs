using Keel.Core.Keys;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>A volume whose key was found: what decrypts it. The key itself is with that, and nowhere else.</summary>
/// <param name="Cipher">Decrypts and encrypts its sectors.</param>
/// <param name="Protector">The protector that was opened.</param>
/// <param name="By">What opened it; null for a key that lies beside in the clear.</param>
internal sealed record OpenedVolume(SectorCipher Cipher, Protector Protector, VolumeKeyKind? By) : IDisposable
{
    /// <inheritdoc/>
    public void Dispose() => Cipher.Dispose();
}

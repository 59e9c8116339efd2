namespace Keel.Core.Volumes.BitLocker;

/// <summary>How far the encryption of a volume has come.</summary>
public enum EncryptionState
{
    /// <summary>The fields of the metadata say something that is not known here.</summary>
    Unknown,

    /// <summary>Wholly encrypted, and protected.</summary>
    On,

    /// <summary>Wholly encrypted, and the key lies beside in the clear.</summary>
    Suspended,

    /// <summary>Being encrypted or decrypted: some of it is plain.</summary>
    Converting,

    /// <summary>Encrypted only where something was written since.</summary>
    OnWrite
}

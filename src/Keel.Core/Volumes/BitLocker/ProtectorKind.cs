namespace Keel.Core.Volumes.BitLocker;

/// <summary>What opens an encrypted volume.</summary>
public enum ProtectorKind
{
    /// <summary>One that is not known here.</summary>
    Other,

    /// <summary>A key that lies beside in the clear: protection is suspended.</summary>
    Clear,

    /// <summary>The TPM alone.</summary>
    Tpm,

    /// <summary>A startup key on a stick.</summary>
    StartupKey,

    /// <summary>The TPM and a PIN.</summary>
    TpmAndPin,

    /// <summary>The recovery key, of 48 digits.</summary>
    RecoveryKey,

    SmartCard,

    Password
}

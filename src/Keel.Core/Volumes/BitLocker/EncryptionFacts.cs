using Keel.Core.Facts;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>What an encrypted volume tells without a key.</summary>
/// <param name="Method">Such as "XTS-AES 128"; null where it is not known here.</param>
/// <param name="State">How far it is encrypted.</param>
/// <param name="Since">When it was encrypted; null where that makes no sense.</param>
/// <param name="Description">Computer, drive, date, as Windows wrote it. Text from the disk; empty where there is none.</param>
/// <param name="Protectors">What opens it, as listed.</param>
/// <param name="WholeBlocks">Which of the three blocks of metadata are whole, by their numbers from 1.</param>
/// <param name="IsToGo">Whether it is of the form for removable disks.</param>
/// <param name="EncryptedBytes">How much of it is encrypted; of a volume that is wholly so, its length.</param>
/// <param name="IsOnWrite">Whether only what is written is encrypted, whatever the state says.</param>
public sealed record EncryptionFacts(
    string? Method,
    EncryptionState State,
    DateTimeOffset? Since,
    string Description,
    IReadOnlyList<Protector> Protectors,
    IReadOnlyList<int> WholeBlocks,
    bool IsToGo,
    bool IsOnWrite,
    long EncryptedBytes)
{
    /// <summary>How many blocks of metadata there are.</summary>
    public const int BlockCount = 3;

    /// <summary>The computer that encrypted it, as its description begins; empty where that can't be told.</summary>
    public string Computer => Description.Split(' ', 2)[0];

    /// <summary>How far it is encrypted, as it is told.</summary>
    public Remark StateTold => State switch
    {
        EncryptionState.On => Remark.Of("encryption.on"),
        EncryptionState.Suspended => Remark.Of("encryption.suspended"),
        EncryptionState.Converting => Remark.Of("encryption.converting"),
        EncryptionState.OnWrite => Remark.Of("encryption.onwrite"),
        _ => Remark.Of("encryption.unknown")
    };

    /// <summary>The recovery keys, as they are looked up.</summary>
    public IReadOnlyList<string> RecoveryKeys =>
        [.. Protectors.Where(one => one.Kind == ProtectorKind.RecoveryKey).Select(one => one.LookUp)];

    /// <summary>The protectors that keep the key only as long as the machine starts as it always has.</summary>
    public bool IsKeptByTpm => Protectors.Any(one => one.Kind is ProtectorKind.Tpm or ProtectorKind.TpmAndPin);

    /// <summary>Whether something opens it that can be typed, or lies in a file.</summary>
    public bool HasKeyToGive => Protectors.Any(one =>
        one.Kind is ProtectorKind.RecoveryKey or ProtectorKind.Password or ProtectorKind.StartupKey);

    /// <summary>Whether all of it is encrypted, so that it can be opened.</summary>
    public bool IsWhole => !IsOnWrite && State is EncryptionState.On or EncryptionState.Suspended;
}

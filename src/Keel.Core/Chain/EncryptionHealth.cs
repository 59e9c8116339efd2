using Keel.Core.Facts;
using Keel.Core.Volumes;
using Keel.Core.Volumes.BitLocker;

namespace Keel.Core.Chain;

/// <summary>What about the encryption of the Windows volume may stop a start, or keep keel from looking behind it.</summary>
internal static class EncryptionHealth
{
    public static readonly FindingKind Locked = new(
        "volume-encrypted",
        Link.WindowsVolume,
        Severity.Warning,
        "The Windows volume is encrypted by BitLocker, so what is behind it can't be judged.",
        StartupScreens.Locked,
        StartupScreens.RecoveryPrompt)
    {
        Beyond = "With its recovery key the rest is judged too: run the same command with --unlock - (it asks for the key), or "
            + "with --unlock FILE."
    };

    public static readonly FindingKind KeylessLock = new(
        "volume-encrypted-keyless",
        Link.WindowsVolume,
        Severity.Warning,
        "The Windows volume is encrypted by BitLocker, and nothing opens it but this machine itself.",
        StartupScreens.Locked,
        StartupScreens.RecoveryPrompt)
    {
        Beyond = "It lists neither a recovery key nor a password: only the TPM of this very machine opens it, with the "
            + "firmware's settings as they were. Put those back, and start it from there."
    };

    public static readonly FindingKind Unfinished = new(
        "encryption-unfinished",
        Link.WindowsVolume,
        Severity.Warning,
        "The Windows volume is encrypted in part only, so what is behind it can't be judged.",
        StartupScreens.Locked,
        StartupScreens.RecoveryPrompt)
    {
        Beyond = "A part of it is plain, and keel does not tell which. Have Windows finish it: start it with the recovery key, "
            + "and leave it on until it is done."
    };

    public static readonly FindingKind MetadataDamaged = new(
        "encryption-metadata-damaged",
        Link.WindowsVolume,
        Severity.Warning,
        "Of the three blocks of encryption metadata of the Windows volume not all are whole.")
    {
        Beyond = "One is enough to open it, and with none its data are lost: make an image of the disk now. Then start Windows, "
            + "and decrypt the volume there."
    };

    public static readonly FindingKind MetadataLost = new(
        "encryption-metadata-lost",
        Link.WindowsVolume,
        Severity.Error,
        "None of the three blocks of encryption metadata of the Windows volume is whole.",
        StartupScreens.Locked,
        StartupScreens.RecoveryPrompt,
        StartupScreens.UnmountableVolume)
    {
        Beyond = "Make an image of the disk before anything else, and write nothing on it. Without its metadata no key opens the "
            + "volume; a package of them that was saved with the recovery key, in the directory, is what is left."
    };

    public static IReadOnlyList<FindingKind> Kinds => [Locked, KeylessLock, Unfinished, MetadataDamaged, MetadataLost];

    /// <summary>What was found; nothing where the volume is not encrypted, or open and in order.</summary>
    public static IEnumerable<Finding> Of(DiskVolume volume)
    {
        if (!volume.IsEncrypted) yield break;
        var place = Fact.Volume.Is(volume.Ref);
        if (volume.Encryption is not { } facts)
        {
            yield return MetadataLost.At(place);
            yield break;
        }

        var damaged = EncryptionFacts.BlockCount - facts.WholeBlocks.Count;
        if (damaged > 0) yield return MetadataDamaged.At(place, Fact.DamagedBlocks.Is(damaged));
        if (volume.IsUnlocked) yield break;
        yield return LockOf(facts).At([place, .. FactsOf(facts)]);
    }

    private static FindingKind LockOf(EncryptionFacts facts) => !facts.IsWhole ? Unfinished
        : facts.HasKeyToGive ? Locked
        : KeylessLock;

    /// <summary>What an encrypted volume tells of itself.</summary>
    public static IEnumerable<KnownFact> FactsOf(EncryptionFacts? encryption)
    {
        if (encryption is null) yield break;
        yield return Fact.Method.Is(encryption.Method ?? "a method that is not known");
        yield return Fact.Encryption.Is(encryption.StateTold);
        if (encryption.RecoveryKeys.Count > 0) yield return Fact.RecoveryKeys.Is(encryption.RecoveryKeys);
    }
}

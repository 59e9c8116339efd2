using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Volumes;
using Keel.Core.Volumes.BitLocker;

namespace Keel.Cli.Wording;

/// <summary>What encrypted volumes say of themselves.</summary>
internal static class EncryptionWords
{
    public static string Of(Protector protector) => protector.Kind switch
    {
        ProtectorKind.Clear => "a key in the clear",
        ProtectorKind.Tpm => "the TPM",
        ProtectorKind.TpmAndPin => "the TPM with a PIN",
        ProtectorKind.StartupKey => $"a startup key ({protector.LookUp})",
        ProtectorKind.RecoveryKey => $"the recovery key {protector.LookUp}",
        ProtectorKind.SmartCard => "a smart card",
        ProtectorKind.Password => "a password",
        _ => "something that is not known"
    };

    /// <summary>What an encrypted volume says of itself, in a line.</summary>
    public static string Line(DiskVolume volume)
    {
        if (volume.Encryption is not { } facts) return "encrypted, and none of its three blocks of metadata is whole";
        var since = facts.Since is { } time ? $", since {time:yyyy-MM-dd}" : "";
        var lost = EncryptionFacts.BlockCount - facts.WholeBlocks.Count;
        var damaged = lost == 0 ? "" : $"; {Words.Count(lost, "block", "blocks")} of its metadata damaged";
        var openers = facts.Protectors.Count == 0 ? "nothing that is listed" : string.Join(", ", facts.Protectors.Select(Of));
        var form = facts.IsToGo ? ", in the form for removable disks" : "";
        var method = facts.Method ?? "encrypted by a method that is not known";
        return $"{method}, {Words.Of(facts.StateTold)}{since}{form}; opened by {openers}{damaged}";
    }

    /// <summary>How many installations were found, and where none could be looked for.</summary>
    public static string Counted(Machine machine)
    {
        var locked = machine.LockedVolumes;
        var behind = locked.Count == 0 ? ""
            : $"; {string.Join(", ", locked)} {(locked.Count == 1 ? "is" : "are")} locked";
        return machine.Installations.Count == 0 && locked.Count > 0
            ? $"none seen{behind}"
            : $"{machine.Installations.Count}{behind}";
    }

    /// <summary>What a volume was opened with; null where it is not open.</summary>
    public static string? Opened(DiskVolume volume) => volume.OpenedProtector is not { } protector ? null
        : volume.OpenedBy is null ? "open: its protection is suspended, and the key lies beside in the clear"
        : $"open now, with {Of(protector)}";

    /// <summary>What opens a locked volume, as a sentence.</summary>
    public static string OpenedBy(DiskVolume volume) => volume.Encryption switch
    {
        null => $"{volume} is locked, and its encryption metadata can't be read.",
        _ when volume.IsCutShort => $"{volume} can't be opened yet: its partition is smaller than what was encrypted.",
        { IsWhole: false } facts => $"{volume} can't be opened here: it is {Words.Of(facts.StateTold)}.",
        { Protectors.Count: 0 } => $"{volume} is locked, and lists nothing that opens it.",
        { } facts => $"{volume} is opened by {string.Join(" or ", facts.Protectors.Select(Of))}."
    };

    /// <summary>What a plan means for a locked volume, in a sentence or two.</summary>
    public static string Of(RecoveryPrompt prompt)
    {
        var steps = prompt.Steps.Count == 0 ? ""
            : $" ({(prompt.Steps.Count == 1 ? "step" : "steps")} {string.Join(", ", prompt.Steps)})";
        var key = prompt.RecoveryKeys.Count > 0
            ? $"the recovery key {string.Join(" or ", prompt.RecoveryKeys)}"
            : "the recovery key";
        var volume = Words.Capital($"{prompt.Volume}");
        var effect = prompt.Effect switch
        {
            PromptEffect.Will
                => $"{volume} is encrypted, and will ask for {key} at the next start{steps}: have it at hand. "
                    + "Once Windows runs, suspend the protection and resume it.",
            PromptEffect.NotKnown
                => $"{volume} is encrypted, and may ask for {key} at the next start{steps}: have it at hand. "
                    + "Where it does, suspend the protection and resume it once Windows runs.",
            _ => $"{volume} is encrypted; this repair does not make it ask for its recovery key."
        };
        return prompt.Volume.IsUnlocked ? effect : $"{effect} Whether Windows is hibernated can't be seen behind the lock.";
    }
}

using Keel.Core.Mending;
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

    /// <summary>What a plan means for a locked volume, in a sentence or two.</summary>
    public static string Of(RecoveryPrompt prompt)
    {
        var steps = prompt.Steps.Count == 0 ? ""
            : $" ({(prompt.Steps.Count == 1 ? "step" : "steps")} {string.Join(", ", prompt.Steps)})";
        var key = prompt.RecoveryKeys.Count > 0
            ? $"the recovery key {string.Join(" or ", prompt.RecoveryKeys)}"
            : "the recovery key";
        return prompt.Effect switch
        {
            PromptEffect.Will
                => $"{prompt.Volume} is encrypted, and will ask for {key} at the next start{steps}: have it at hand. "
                    + "Once Windows runs, suspend the protection and resume it.",
            PromptEffect.NotKnown
                => $"{prompt.Volume} is encrypted, and may ask for {key} at the next start{steps}: have it at hand. "
                    + "Where it does, suspend the protection and resume it once Windows runs.",
            _ => $"{prompt.Volume} is encrypted; this repair does not make it ask for its recovery key."
        };
    }
}

using Keel.Core.Chain;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Volumes.BitLocker;

namespace Keel.Core.Mending;

/// <summary>
/// What a plan means for volumes whose key the TPM keeps: it gives the key only where the machine started as it always has.
/// </summary>
/// <param name="Volume">The locked volume.</param>
/// <param name="Effect">Whether it will ask for the recovery key at the next start.</param>
/// <param name="Steps">The numbers of the steps that decide it, from 1.</param>
/// <param name="RecoveryKeys">The recovery keys that would open it, as they are looked up.</param>
public sealed record RecoveryPrompt(
    DiskVolume Volume,
    PromptEffect Effect,
    IReadOnlyList<int> Steps,
    IReadOnlyList<string> RecoveryKeys)
{
    /// <summary>Whether the recovery key was shown to be at hand: the volume was opened with it.</summary>
    public bool IsKeyAtHand => Volume.OpenedBy == Keys.VolumeKeyKind.Recovery;

    /// <summary>One for each volume that the TPM keeps the key of; none where nothing would be written.</summary>
    public static IReadOnlyList<RecoveryPrompt> Of(Machine machine, Plan plan) => plan.Steps.Count == 0 || !plan.Changes.Any
        ? []
        : [.. machine.Volumes.Select(volume => For(machine, plan, volume)).OfType<RecoveryPrompt>()];

    private static RecoveryPrompt? For(Machine machine, Plan plan, DiskVolume volume)
    {
        if (volume.Encryption is not { State: not EncryptionState.Suspended } facts
            || !facts.Protectors.Any(one => one.Kind is ProtectorKind.Tpm or ProtectorKind.TpmAndPin))
        {
            return null;
        }

        var effects = plan.Steps.Select(step => EffectOf(machine.Firmware, step.Link)).ToList();
        var worst = effects.Max();
        int[] numbers = worst == PromptEffect.None
            ? []
            : [.. effects.Index().Where(one => one.Item == worst).Select(one => one.Index + 1)];
        return new RecoveryPrompt(volume, worst, numbers, facts.RecoveryKeys);
    }

    /// <summary>
    /// What is measured depends on the firmware and on policy: through BIOS the code that runs, through UEFI who signed the boot
    /// manager (where Secure Boot is on), and the boot manager itself (where it is off). Tables and orders are not.
    /// </summary>
    private static PromptEffect EffectOf(FirmwareKind firmware, Link link) => (firmware, link) switch
    {
        (FirmwareKind.Bios, Link.MbrCode or Link.BootSector or Link.ManagerFile) => PromptEffect.Will,
        (FirmwareKind.Bios, Link.DiskLayout or Link.ActiveMark) => PromptEffect.NotKnown,
        (FirmwareKind.Uefi, Link.ManagerFile or Link.FallbackFile or Link.SystemVolume) => PromptEffect.NotKnown,
        (_, Link.Store or Link.ManagerEntry or Link.WindowsEntry) => PromptEffect.NotKnown,
        _ => PromptEffect.None
    };
}

using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Volumes.BitLocker;

namespace Keel.Core.Chain;

/// <summary>
/// What makes the TPM keep the key of an encrypted volume back, as far as the disk and the firmware's variables tell. None of it
/// keeps a machine from starting once its recovery key is typed, so they are notes.
/// </summary>
internal static class RecoveryPromptCauses
{
    public static readonly FindingKind Settings = new(
        "prompt-by-settings",
        Link.WindowsEntry,
        Severity.Note,
        "Settings of the Windows entry are such that BitLocker may ask for the recovery key.",
        StartupScreens.RecoveryPrompt,
        StartupScreens.Locked);

    public static readonly FindingKind SecureBootOff = new(
        "prompt-by-secure-boot",
        Link.WindowsVolume,
        Severity.Note,
        "Secure Boot is off: where it was on when the volume was encrypted, BitLocker asks for the recovery key.",
        StartupScreens.RecoveryPrompt,
        StartupScreens.Locked);

    public static readonly FindingKind ForeignCode = new(
        "prompt-by-boot-code",
        Link.WindowsVolume,
        Severity.Note,
        "The code in the master boot record is not Windows' own: BitLocker asks for the recovery key where it has changed.",
        StartupScreens.RecoveryPrompt,
        StartupScreens.Locked);

    /// <summary>What Windows holds for a way past its own checks: any of them, and the key is not given.</summary>
    private static readonly uint[] Weakening =
    [
        Element.KernelDebugging, Element.EarlyDebugging, Element.AcceptTestSignatures, Element.SkipIntegrityChecks,
        Element.SafeStart, Element.SafeStartPrompt
    ];

    public static IReadOnlyList<FindingKind> OfEntry => [Settings];

    public static IReadOnlyList<FindingKind> OfVolume => [SecureBootOff, ForeignCode];

    /// <summary>Whether the TPM has to give the key of that volume.</summary>
    public static bool Concerns(DiskVolume? volume) =>
        volume?.Encryption is { IsKeptByTpm: true, State: not EncryptionState.Suspended };

    /// <summary>Settings of the started entry.</summary>
    public static IEnumerable<Finding> Of(Machine machine, BootEntry entry)
    {
        if (!Concerns(machine.VolumeOf(entry.Device(Element.WindowsVolume)))) yield break;
        if (SettingsOf(entry) is { Count: > 0 } set)
        {
            yield return Settings.At(
                Fact.Title.Is(entry.Title ?? ""),
                Fact.Settings.Is(Checks.EntrySettingsCheck.NamesOf(set)));
        }
    }

    /// <summary>What lies before the store.</summary>
    public static IEnumerable<Finding> Of(Machine machine, DiskVolume volume)
    {
        if (!Concerns(volume)) yield break;
        if (machine.Firmware == FirmwareKind.Uefi)
        {
            if (machine.SecureBoot.IsOn == false) yield return SecureBootOff.At(Fact.Volume.Is(volume.Ref));
            yield break;
        }

        if (machine.StartDisk.Overlay.TryRead(0, MasterBootRecord.Size) is not { } sector) yield break;
        var reading = CodeRecognizer.OfMbr(new MasterBootRecord(sector).Code);
        if (reading.Owner is CodeOwner.Keel or CodeOwner.Foreign or CodeOwner.Unknown)
            yield return ForeignCode.At(Fact.Volume.Is(volume.Ref), Fact.Code.Is(reading.Name));
    }

    /// <summary>Those of an entry that are on.</summary>
    public static IReadOnlyList<uint> SettingsOf(BootEntry entry) =>
        [.. Weakening.Where(element => entry.Number(element) is { } value && (element == Element.SafeStart || value > 0))];
}

namespace Keel.Core.Chain;

/// <summary>Through which firmware the machine starts.</summary>
public enum FirmwareKind
{
    Bios,
    Uefi
}

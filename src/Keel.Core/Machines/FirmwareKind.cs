namespace Keel.Core.Machines;

/// <summary>Through which firmware the machine starts.</summary>
public enum FirmwareKind
{
    /// <summary>Starts by the first sector of a disk.</summary>
    Bios,

    /// <summary>Starts by a file of the EFI system partition.</summary>
    Uefi
}

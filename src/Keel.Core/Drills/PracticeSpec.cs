using Keel.Core.Machines;

namespace Keel.Core.Drills;

/// <summary>What a practice disk is to be like.</summary>
public sealed record PracticeSpec
{
    /// <summary>For which firmware the disk is laid out.</summary>
    public FirmwareKind Firmware { get; init; } = FirmwareKind.Bios;

    /// <summary>The computer's name.</summary>
    public string MachineName { get; init; } = "PURSER-02";

    /// <summary>Cluster size of the system volume, in bytes.</summary>
    public int SystemClusterBytes { get; init; } = 4096;

    /// <summary>
    /// The sector size of the disk, in bytes: 512 or 4096. Firmware that starts through boot code knows 512 only.
    /// </summary>
    public int SectorBytes { get; init; } = 512;

    /// <summary>The product that the Windows installation says it is.</summary>
    public string Product { get; init; } = "Windows 10 Pro";

    /// <summary>The build of the Windows on it.</summary>
    public int Build { get; init; } = 19045;

    /// <summary>How the Windows volume is encrypted; null where it is not, and the fault does not ask for it.</summary>
    public PracticeMethod? Encrypted { get; init; }

    /// <summary>How Windows' overlay packed the system files, by the number of its method; null where it didn't.</summary>
    public uint? PackedBy { get; init; }

    public uint DiskSignature { get; init; } = 0xB4AC0042;

    /// <summary>The time that everything on the disk carries.</summary>
    public DateTimeOffset Made { get; init; } = new(2026, 3, 2, 6, 40, 0, TimeSpan.Zero);
}

using Keel.Core.Blocks;
using Keel.Core.Machines;

namespace Keel.Core.Drills;

/// <summary>Where the volumes of a practice disk lie.</summary>
/// <param name="DiskBytes">The size of the disk, in bytes.</param>
/// <param name="System">The volume that the machine starts from.</param>
/// <param name="Windows">The volume of Windows.</param>
/// <param name="WindowsNumber">The number of the Windows volume.</param>
/// <param name="Reserved">The partition reserved for Windows; null where there is none.</param>
/// <param name="Recovery">The volume of the recovery environment; null where there is none.</param>
internal sealed record PracticeLayout(
    long DiskBytes,
    ByteRange System,
    ByteRange Windows,
    int WindowsNumber,
    ByteRange? Reserved = null,
    ByteRange? Recovery = null)
{
    private const long MiB = 1024 * 1024;
    public const int SystemNumber = 1;

    public static readonly PracticeLayout Bios = new(322 * MiB, new(MiB, 64 * MiB), new(65 * MiB, 256 * MiB), 2);

    public static readonly PracticeLayout Uefi =
        new(
            390 * MiB,
            new(MiB, 100 * MiB),
            new(117 * MiB, 256 * MiB),
            3,
            Reserved: new(101 * MiB, 16 * MiB),
            Recovery: new(373 * MiB, 16 * MiB));

    public static PracticeLayout For(FirmwareKind firmware) => firmware == FirmwareKind.Bios ? Bios : Uefi;
}

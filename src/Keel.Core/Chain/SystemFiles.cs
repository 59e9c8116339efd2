using Keel.Core.Chain.Checks;
using Keel.Core.Volumes;

namespace Keel.Core.Chain;

/// <summary>Gets at the files of the system volume, for the links that look at them.</summary>
internal static class SystemFiles
{
    /// <summary>Why the files can't be judged yet; null where they can.</summary>
    public static string? Reach(Machine machine, out DiskVolume volume, out IVolume files)
    {
        (volume, files) = (null!, null!);
        if (machine.SystemVolume is not { } system) return "the system volume is not known";
        if (Blocked(machine, system)) return "the system volume comes first";
        if (system.Files is not { } there) return $"{system} holds no file system that keel reads ({FileSystemProbe.Name(system.Kind)})".Replace(" ()", "", StringComparison.Ordinal);
        (volume, files) = (system, there);
        return null;
    }

    /// <summary>Whether a volume is the system volume of a UEFI machine, and can't be judged before it is mended itself.</summary>
    public static bool Blocked(Machine machine, DiskVolume volume) => machine.Firmware == FirmwareKind.Uefi && volume == machine.SystemVolume
        && machine.SystemVolumeReport.Findings.Any(finding => finding.Kind.Severity == Severity.Error && finding.Kind != SystemVolumeCheck.WrongType);
}

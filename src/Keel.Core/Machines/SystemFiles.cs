using Keel.Core.Facts;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>Gets at the files of the system volume, for the links that look at them.</summary>
internal static class SystemFiles
{
    /// <summary>Why the files can't be judged yet; null where they can.</summary>
    public static Remark? WhyNot(Machine machine, out DiskVolume volume, out IVolume files)
    {
        (volume, files) = (null!, null!);
        if (machine.SystemVolume is not { } system) return Remark.Of("system-volume.not-known");
        if (Blocked(machine, system)) return Remark.Of("system-volume.first");
        if (system.Files is not { } there) return NoFiles(system);
        (volume, files) = (system, there);
        return null;
    }

    private static Remark NoFiles(DiskVolume system)
    {
        var remark = Remark.Of("system-volume.no-files", Fact.Volume.Is(system.Ref));
        var kind = FileSystemProbe.Name(system.Kind);
        return kind.Length > 0 ? remark.With(Fact.FileSystem.Is(kind)) : remark;
    }

    /// <summary>
    /// Whether a volume is the system volume of a UEFI machine, and can't be judged before it is mended itself.
    /// </summary>
    public static bool Blocked(Machine machine, DiskVolume volume) =>
        machine.Firmware == FirmwareKind.Uefi && volume == machine.SystemVolume
        && machine.SystemVolumeState.BlocksFiles;
}

using Keel.Core.Layout;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>Finds the roles of volumes.</summary>
public static class VolumeRoles
{
    /// <summary>What a volume is there for; it may be there for several things.</summary>
    public static IReadOnlyList<VolumeRole> Of(Machine machine, DiskVolume volume)
    {
        var roles = new List<VolumeRole>();
        if (volume == machine.SystemVolume) roles.Add(VolumeRole.System);
        if (machine.Installations.Any(installation => installation.Volume == volume)) roles.Add(VolumeRole.Windows);
        if (volume.Partition.GptType == PartitionTypes.GptRecovery || volume.Partition.MbrType == PartitionTypes.Recovery)
            roles.Add(VolumeRole.Recovery);
        if (volume.Partition.GptType == PartitionTypes.GptReserved) roles.Add(VolumeRole.Reserved);
        if (roles.Count == 0) roles.Add(RoleByKind(volume.Kind));
        return roles;
    }

    private static VolumeRole RoleByKind(FileSystemKind kind) => kind switch
    {
        FileSystemKind.Unknown => VolumeRole.Other,
        FileSystemKind.BitLocker => VolumeRole.Locked,
        _ => VolumeRole.Data
    };
}

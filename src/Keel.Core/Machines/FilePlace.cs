namespace Keel.Core.Machines;

/// <summary>A file that a finding is about.</summary>
/// <param name="DiskPath">The disk that it is on.</param>
/// <param name="Volume">The number of its volume.</param>
/// <param name="Path">From the top of that volume.</param>
public sealed record FilePlace(string DiskPath, int Volume, string Path)
{
    /// <summary>The place of a file on a volume.</summary>
    public static FilePlace Of(Volumes.DiskVolume volume, string path) => new(volume.DiskPath, volume.Number, path);

    /// <summary>The volume as the machine has it now.</summary>
    public Volumes.DiskVolume? VolumeIn(Machine machine) =>
        machine.Volumes.FirstOrDefault(volume => volume.DiskPath == DiskPath && volume.Number == Volume);
}

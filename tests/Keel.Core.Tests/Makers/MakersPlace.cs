namespace Keel.Core.Tests.Makers;

/// <summary>A partition with the disk that it is on.</summary>
internal sealed record MakersPlace(MakersDisk Disk, MakersPart Part)
{
    public bool IsEfi => Part.Role.FileSystem == "fat32";

    /// <summary>As the store names it.</summary>
    public byte[] Device => Disk.Device(Part);
}

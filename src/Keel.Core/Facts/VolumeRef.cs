namespace Keel.Core.Facts;

/// <summary>Which volume is meant.</summary>
/// <param name="DiskPath">The disk that it is on.</param>
/// <param name="Number">Its partition's number on that disk, from 1.</param>
/// <param name="File">The virtual disk file that its disk lies in; null for a disk by itself.</param>
public sealed record VolumeRef(string DiskPath, int Number, string? File = null)
{
    /// <summary>"volume 2": how a volume is named everywhere; with the file where its disk lies in one.</summary>
    public override string ToString() => File is null ? $"volume {Number}" : $"volume {Number} in {File}";
}

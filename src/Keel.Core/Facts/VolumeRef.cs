namespace Keel.Core.Facts;

/// <summary>Which volume is meant.</summary>
/// <param name="DiskPath">The disk that it is on.</param>
/// <param name="Number">Its partition's number on that disk, from 1.</param>
public sealed record VolumeRef(string DiskPath, int Number)
{
    /// <summary>"volume 2": how a volume is named everywhere.</summary>
    public override string ToString() => $"volume {Number}";
}

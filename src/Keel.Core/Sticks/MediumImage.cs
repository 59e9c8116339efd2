using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Layout;

namespace Keel.Core.Sticks;

/// <summary>What an image, or a stick that it was written to, is: a CD image that also starts from a stick.</summary>
/// <param name="Label">The CD volume's label; empty where it is no CD image.</param>
/// <param name="IsCd">Whether it holds a CD volume.</param>
/// <param name="IsKeel">Whether it is keel's own rescue medium.</param>
/// <param name="StartsFromDisk">Whether its first sector is one that firmware starts.</param>
public sealed record MediumImage(string Label, bool IsCd, bool IsKeel, bool StartsFromDisk)
{
    private const string KeelLabel = "KEEL";

    /// <summary>Looks at the first sectors.</summary>
    public static MediumImage Of(IReadableBlocks blocks)
    {
        if (blocks.LengthBytes < IsoVolumeRecord.AtBytes + IsoVolumeRecord.Size) return new MediumImage("", false, false, false);
        var first = new MasterBootRecord(blocks.ReadBytes(0, MasterBootRecord.Size));
        var volume = blocks.ReadBytes(IsoVolumeRecord.AtBytes, IsoVolumeRecord.Size).AsSpan().At<IsoVolumeRecord>(0);
        var label = volume.IsPrimary ? volume.Label.ToString() : "";
        var starts = first.HasMark && first.Code.ContainsAnyExcept((byte)0);
        return new MediumImage(label, volume.IsPrimary, label == KeelLabel, starts);
    }

    /// <summary>Refuses an image that no machine would start from a stick.</summary>
    /// <exception cref="RefusedException">It is none.</exception>
    public static MediumImage Require(DiskFile image)
    {
        var found = Of(image);
        if (found.StartsFromDisk) return found;
        throw new RefusedException(
            $"{image.Path} was not written.",
            found.IsCd
                ? "It is an image for a CD alone: no machine would start it from a stick."
                : "It is not an image that a machine starts from: its first sector has no boot code.",
            "Name an image that is made for sticks too, such as keel's own, which ./rescue builds.");
    }
}

using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Layout;

namespace Keel.Core.Sticks;

/// <summary>Disks that belong to the rescue system, and not to the machine that is rescued.</summary>
public static class RecoveryMedia
{
    /// <summary>Whether it is keel's own medium, or carries the volume for its logbook; false where it can't be read.</summary>
    public static bool IsOne(string path)
    {
        try
        {
            using var disk = DiskFile.Open(path);
            if (MediumImage.Of(disk).IsKeel) return true;
            var overlay = new Overlay(disk);
            return LogPartition.Find(overlay, DiskLayout.Read(overlay)) is not null;
        }
        catch (KeelException)
        {
            return false;
        }
    }
}

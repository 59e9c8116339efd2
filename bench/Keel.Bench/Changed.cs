using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Machines;

namespace Keel.Bench;

/// <summary>Changes a practice disk outright.</summary>
internal static class Changed
{
    public static void Write(string path, Action<Machine> change)
    {
        using var machine = Machine.Open(path);
        change(machine);
        using var image = DiskFile.OpenForWriting(path);
        var overlay = machine.StartDisk.Overlay;
        foreach (var range in overlay.Changes().Ranges)
        {
            for (var at = range.Start; at < range.Range.End; at += 1 << 20)
                image.Write(at, overlay.ReadBytes(at, (int)Math.Min(1 << 20, range.Range.End - at)));
        }
    }
}

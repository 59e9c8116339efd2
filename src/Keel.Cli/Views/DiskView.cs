using Keel.Cli.Wording;
using Keel.Core.Disks;

namespace Keel.Cli.Views;

/// <summary>A disk of this computer in one line.</summary>
internal static class DiskView
{
    public static string Line(ComputerDisk disk)
    {
        var identified = ComputerView.Identified(disk.Traits) is { Length: > 0 } words ? $", {words}" : "";
        return $"{disk.Path}, {Sizes.Text(disk.SizeBytes)}{(disk.IsRemovable ? ", removable" : "")}{identified}";
    }
}

using System.Text;

namespace Keel.Cli.Views;

/// <summary>Draws a disk to scale, as one line of text.</summary>
internal static class LayoutDrawing
{
    private const char Filled = '=', Unlisted = '?', Free = '.';

    /// <summary>The line: partitions by their number, "?" for volumes that no table lists, dots for free space.</summary>
    /// <param name="areas">The stretches of the disk.</param>
    /// <param name="diskBytes">Its size in bytes.</param>
    /// <param name="width">How many places there are.</param>
    public static string Line(IReadOnlyList<LayoutArea> areas, long diskBytes, int width)
    {
        var labels = areas.Select(area => area.Partition is { } partition ? $"{partition.Number}" : "").ToList();
        var least = labels.Select(label => Math.Max(1, label.Length)).ToList();
        var room = Math.Max(0, width - 1 - areas.Count - least.Sum());
        var result = new StringBuilder("|");
        var (handedOut, covered) = (0, 0L);
        for (var index = 0; index < areas.Count; index++)
        {
            // What is handed out follows the sum, so that rounding never adds up.
            covered += areas[index].Range.Length;
            var until = (int)Math.Min(room, (double)room * covered / Math.Max(1, diskBytes));
            var places = least[index] + until - handedOut;
            handedOut = until;
            var fill = areas[index].Partition is not null ? Filled : areas[index].Found is not null ? Unlisted : Free;
            result.Append(labels[index].PadRight(places, fill)).Append('|');
        }

        return result.ToString();
    }
}

using System.Text;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>What a differencing VHD says of where its parent is.</summary>
internal static class VhdParentNames
{
    private const int LongestPathBytes = 64 * 1024;

    /// <summary>The paths, in the words of Windows: the relative one first.</summary>
    public static IReadOnlyList<string> Of(IReadableBlocks file, in VhdHeaderRecord header)
    {
        var names = new List<string>();
        foreach (var platform in (ReadOnlySpan<uint>)[VhdLocatorRecord.Relative, VhdLocatorRecord.Whole])
        {
            for (var number = 0; number < VhdHeaderRecord.LocatorCount; number++)
            {
                var locator = header.Parents[number];
                if (locator.Platform.Value != platform || locator.LengthBytes.Value is 0 or > LongestPathBytes) continue;
                var bytes = file.TryReadAnyway((long)locator.At.Value, (int)locator.LengthBytes.Value);
                if (bytes is not null) names.Add(Encoding.Unicode.GetString(bytes).TrimEnd('\0'));
            }
        }

        ReadOnlySpan<byte> name = header.ParentName;
        names.Add(Encoding.BigEndianUnicode.GetString(name).TrimEnd('\0'));
        return [.. names.Where(path => path.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase)];
    }
}

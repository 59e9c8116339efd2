using System.Globalization;
using System.Text.RegularExpressions;

namespace Keel.Core.BootLists;

/// <summary>
/// A path as boot.ini writes it: a disk, a partition of it, and a folder (Advanced RISC Computing specification).
/// </summary>
/// <param name="Kind">How it names the disk.</param>
/// <param name="Adapter">The adapter, or the signature of the disk.</param>
/// <param name="Disk">The target of a SCSI bus; 0 for the other kinds.</param>
/// <param name="Rdisk">The number of the disk, from 0.</param>
/// <param name="Partition">The number of the partition, from 1: primary ones first, then logical ones.</param>
/// <param name="Folder">Such as <c>\WINDOWS</c>; empty where none is named.</param>
public sealed partial record ArcPath(ArcKind Kind, uint Adapter, int Disk, int Rdisk, int Partition, string Folder)
{
    /// <summary>What the loader takes where no list tells it anything.</summary>
    public static ArcPath Fallback { get; } = OnDisk(0, 1, @"\WINDOWS");

    /// <summary>The path of a partition on a disk that the BIOS numbers.</summary>
    public static ArcPath OnDisk(int disk, int partition, string folder) =>
        new(ArcKind.Multi, 0, 0, disk, partition, folder);

    /// <summary>Reads one; null where it is something else.</summary>
    public static ArcPath? TryParse(string text)
    {
        if (Form().Match(text.Trim()) is not { Success: true } match) return null;
        var kind = Enum.Parse<ArcKind>(match.Groups["kind"].ValueSpan, ignoreCase: true);
        var style = kind == ArcKind.Signature ? NumberStyles.AllowHexSpecifier : NumberStyles.None;
        if (!uint.TryParse(match.Groups["adapter"].ValueSpan, style, CultureInfo.InvariantCulture, out var adapter)) return null;
        return Number("disk") is { } disk && Number("rdisk") is { } rdisk && Number("partition") is { } partition
            ? new ArcPath(kind, adapter, disk, rdisk, partition, match.Groups["folder"].Value.TrimEnd('\\', ' '))
            : null;

        int? Number(string group) =>
            int.TryParse(match.Groups[group].ValueSpan, NumberStyles.None, CultureInfo.InvariantCulture, out var number)
                ? number
                : null;
    }

    /// <summary>As boot.ini writes it.</summary>
    public override string ToString()
    {
        var kind = Kind.ToString().ToLowerInvariant();
        var adapter = Kind == ArcKind.Signature ? Adapter.ToString("x8", CultureInfo.InvariantCulture) : $"{Adapter}";
        return $"{kind}({adapter})disk({Disk})rdisk({Rdisk})partition({Partition}){Folder}";
    }

    [GeneratedRegex(
        @"^(?<kind>multi|scsi|signature)\((?<adapter>[0-9a-f]{1,8})\)"
            + @"disk\((?<disk>\d{1,3})\)rdisk\((?<rdisk>\d{1,3})\)partition\((?<partition>\d{1,3})\)(?<folder>\\.*)?$",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant | RegexOptions.ExplicitCapture)]
    private static partial Regex Form();
}

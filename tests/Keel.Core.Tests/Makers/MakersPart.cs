using System.Globalization;
using System.Text.RegularExpressions;
using Keel.Core.Blocks;

namespace Keel.Core.Tests.Makers;

/// <summary>A partition of a maker's layout, where it comes to lie.</summary>
/// <param name="Role">What is in it, a word of <see cref="MakersRole"/>.</param>
/// <param name="Number">Its number in the table, from 1.</param>
/// <param name="StartSector">Where it starts, in sectors of 512 bytes.</param>
/// <param name="Sectors">How long it is, in sectors of 512 bytes.</param>
/// <param name="IsActive">Whether it has the active mark.</param>
/// <param name="IsLogical">Whether it lies in the extended partition.</param>
/// <param name="Id">Its identifier in a GPT.</param>
internal sealed partial record MakersPart(
    MakersRole Role,
    int Number,
    long StartSector,
    long Sectors,
    bool IsActive,
    bool IsLogical,
    Guid Id)
{
    public const int SectorBytes = 512, SectorsInMiB = 1024 * 1024 / SectorBytes;
    private const int FirstLogicalNumber = 5;

    public ByteRange Range => new(StartSector * SectorBytes, Sectors * SectorBytes);

    /// <summary>
    /// Reads "system*:24 windows:72 >data:24 gap:8 winre:24#4": a role and its MiB, * active, > logical, # another number.
    /// </summary>
    public static List<MakersPart> ReadAll(string text, long firstSector, Random chance)
    {
        var parts = new List<MakersPart>();
        var at = firstSector;
        var (primary, logical) = (1, FirstLogicalNumber);
        foreach (Match match in Word().Matches(text))
        {
            var sectors = long.Parse(match.Groups["size"].Value, CultureInfo.InvariantCulture) * SectorsInMiB;
            if (match.Groups["role"].Value == "gap")
            {
                at += sectors;
                continue;
            }

            var isLogical = match.Groups["logical"].Success;
            if (isLogical) at += SectorsInMiB;
            var number = isLogical ? logical++ : primary++;
            if (match.Groups["number"] is { Success: true } own) number = int.Parse(own.Value, CultureInfo.InvariantCulture);
            var id = new byte[16];
            chance.NextBytes(id);
            var role = MakersRole.Find(match.Groups["role"].Value);
            parts.Add(new(role, number, at, sectors, match.Groups["active"].Success, isLogical, new Guid(id)));
            at += sectors;
            at += (SectorsInMiB - at % SectorsInMiB) % SectorsInMiB;
        }

        return parts;
    }

    [GeneratedRegex(@"(?<logical>>)?(?<role>[a-z-]+)(?<active>\*)?:(?<size>\d+)(#(?<number>\d+))?", RegexOptions.ExplicitCapture)]
    private static partial Regex Word();
}

using Keel.Core.Blocks;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Volumes;

/// <summary>A boot sector with wrong fields, as it should be.</summary>
/// <param name="Kind">The file system that stands there.</param>
/// <param name="Sector">The corrected sector, 512 bytes.</param>
/// <param name="Fields">What is wrong in the one that stands: names of fields, or that it is another volume's.</param>
public sealed record BootSectorFault(FileSystemKind Kind, byte[] Sector, IReadOnlyList<string> Fields)
{
    /// <summary>More wrong fields than these are not tried one by one: the sector belongs to another volume.</summary>
    private const int MostTried = 6;

    /// <summary>
    /// Compares the first sector of a volume with its backup copy, field by field, by what stands at the places that each names;
    /// null where nothing is wrong, or nothing proves it. One sector besides the first is read where both agree.
    /// </summary>
    /// <exception cref="Errors.ReadFailedException">The disk does not give the places.</exception>
    public static BootSectorFault? Of(IReadableBlocks volume)
    {
        if (volume.TryRead(0, NtfsBootSector.Size) is not { } here) return null;
        var isNtfs = here.AsSpan(3).StartsWith(NtfsBootSector.Oem);
        if (!isNtfs && FatBootSector.TryRead(here) is null) return null;
        foreach (var copy in Copies(volume, isNtfs))
        {
            if (FieldsOf(isNtfs).All(field => !field.IsVital || field.IsSame(here, copy))) return null;
            if (Merged(volume, isNtfs, here, copy) is { } fault) return fault;
        }

        return OfOther(volume, isNtfs, here) ?? (isNtfs ? null : OfTotal(volume, here));
    }

    /// <summary>The copies of the file system that the first sector speaks of, at their usual places.</summary>
    private static IEnumerable<byte[]> Copies(IReadableBlocks volume, bool isNtfs)
    {
        const int fatCopySector = 6;
        foreach (var sectorBytes in new[] { volume.SectorBytes, 512, 4096 }.Distinct())
        {
            var at = isNtfs ? volume.LengthBytes - sectorBytes : (long)fatCopySector * sectorBytes;
            if (at <= 0 || volume.TryRead(at, NtfsBootSector.Size) is not { } copy) continue;
            var isCopy = isNtfs
                ? NtfsBootSector.TryRead(copy) is { IsPlausible: true, HasMark: true }
                : FatBootSector.TryRead(copy) is { Kind: FileSystemKind.Fat32, HasMark: true };
            if (isCopy) yield return copy;
        }
    }

    /// <summary>
    /// The sector with those fields of the copy that the volume bears out better; null where its own are as good.
    /// </summary>
    private static BootSectorFault? Merged(IReadableBlocks volume, bool isNtfs, byte[] here, byte[] copy)
    {
        var different = FieldsOf(isNtfs).Where(field => !field.IsSame(here, copy)).ToList();
        if (different.Count > MostTried) return null;
        var claims = new BootSectorClaims(volume);
        var (best, most) = (0, claims.Holding(isNtfs, here));
        for (var set = 1; set < 1 << different.Count; set++)
        {
            var holding = claims.Holding(isNtfs, With(different, set, here, copy));
            var isSmaller = holding == most && best != 0 && int.PopCount(set) < int.PopCount(best);
            if (holding > most || isSmaller) (best, most) = (set, holding);
        }

        var wrong = different.Where((_, number) => (best >> number & 1) != 0).ToList();
        if (wrong.Exists(field => field.IsVital) && wrong.Count == different.Count && !IsSameVolume(isNtfs, here, copy))
            return new BootSectorFault(isNtfs ? FileSystemKind.Ntfs : FileSystemKind.Fat32, copy, [OtherVolume]);
        return wrong.Exists(field => field.IsVital)
            ? new BootSectorFault(
                isNtfs ? FileSystemKind.Ntfs : FileSystemKind.Fat32,
                With(different, best, here, copy),
                [.. wrong.Select(field => field.Name)])
            : null;
    }

    /// <summary>By serial number and place, which nothing on the volume repeats.</summary>
    private static bool IsSameVolume(bool isNtfs, byte[] here, byte[] copy)
    {
        if (!isNtfs)
        {
            var (own, other) = (FatBootSector.TryRead(here), FatBootSector.TryRead(copy));
            return own?.Serial == other?.Serial && own?.HiddenSectors == other?.HiddenSectors;
        }

        var (first, second) = (NtfsBootSector.TryRead(here), NtfsBootSector.TryRead(copy));
        return first?.Serial == second?.Serial && first?.HiddenSectors == second?.HiddenSectors;
    }

    private static byte[] With(List<BootSectorField> fields, int set, byte[] here, byte[] copy)
    {
        var merged = here.ToArray();
        for (var number = 0; number < fields.Count; number++)
        {
            if ((set >> number & 1) != 0) fields[number].Copy(copy, merged);
        }

        return merged;
    }

    /// <summary>Another volume's sector: nothing stands where it says, and a copy is borne out wholly.</summary>
    private static BootSectorFault? OfOther(IReadableBlocks volume, bool isNtfs, byte[] here)
    {
        var claims = new BootSectorClaims(volume);
        if (claims.IsBorneOut(isNtfs, here)) return null;
        foreach (var other in (bool[])[isNtfs, !isNtfs])
        {
            foreach (var copy in Copies(volume, other).Where(copy => claims.IsBorneOut(other, copy)))
                return new BootSectorFault(other ? FileSystemKind.Ntfs : FileSystemKind.Fat32, copy, [OtherVolume]);
        }

        return null;
    }

    /// <summary>
    /// A FAT volume without a copy whose total is far less than its tables are made for, and that fills its partition with the
    /// right one.
    /// </summary>
    private static BootSectorFault? OfTotal(IReadableBlocks volume, byte[] here)
    {
        const int smallAt = 0x13, largeAt = 0x20;
        var claims = new BootSectorClaims(volume);
        if (FatBootSector.TryRead(here) is not { } boot || BootSectorClaims.TotalFits(volume, boot)) return null;
        var total = volume.LengthBytes / boot.BytesPerSector;
        var filled = here.ToArray();
        var isSmall = total <= ushort.MaxValue && BitConverter.ToUInt16(here, smallAt) != 0;
        BitConverter.TryWriteBytes(filled.AsSpan(smallAt), isSmall ? (ushort)total : (ushort)0);
        BitConverter.TryWriteBytes(filled.AsSpan(largeAt), isSmall ? 0u : (uint)total);
        return FatBootSector.TryRead(filled) is { } corrected
            && corrected.Kind == boot.Kind
            && total > boot.TotalSectors
            && BootSectorClaims.TotalFits(volume, corrected)
            && claims.IsBorneOut(isNtfs: false, filled)
            ? new BootSectorFault(boot.Kind, filled, ["total sectors"])
            : null;
    }

    /// <summary>Told where the whole sector is another volume's.</summary>
    public const string OtherVolume = "another volume's sector";

    private static IReadOnlyList<BootSectorField> FieldsOf(bool isNtfs) =>
        isNtfs ? BootSectorField.OfNtfs : BootSectorField.OfFat32;
}

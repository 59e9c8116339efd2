using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Disks;

/// <summary>
/// An image of a failing disk: what its map says was never read is an error here too, as it was on the device, and not zeros.
/// </summary>
internal sealed class MappedDisk(DiskFile file, MapFile map) : IDisk
{
    /// <inheritdoc/>
    public string Path => file.Path;

    /// <inheritdoc/>
    public DiskForm Form => file.Form;

    /// <inheritdoc/>
    public BlockCounters Counters => file.Counters;

    /// <inheritdoc/>
    public DiskTraits Traits => file.Traits;

    /// <inheritdoc/>
    public long LengthBytes => file.LengthBytes;

    /// <inheritdoc/>
    public int SectorBytes => file.SectorBytes;

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        RefuseMissing(offsetBytes, buffer.Length);
        file.Read(offsetBytes, buffer);
    }

    /// <inheritdoc/>
    public void ReadBack(long offsetBytes, Span<byte> buffer) => file.ReadBack(offsetBytes, buffer);

    /// <inheritdoc/>
    public void Write(long offsetBytes, ReadOnlySpan<byte> data) => file.Write(offsetBytes, data);

    /// <inheritdoc/>
    public void Flush() => file.Flush();

    /// <inheritdoc/>
    public long NextData(long offsetBytes) => file.NextData(offsetBytes);

    /// <inheritdoc/>
    public void ForgetCached() => file.ForgetCached();

    /// <inheritdoc/>
    public void Dispose() => file.Dispose();

    private void RefuseMissing(long offsetBytes, int length)
    {
        var asked = new ByteRange(offsetBytes, length);
        var missing = map.Missing.Where(range => range.Overlaps(asked)).ToList();
        if (length == 0 || missing.Count == 0) return;
        var sectors = missing
            .SelectMany(range => SectorsOf(Math.Max(range.Start, asked.Start), Math.Min(range.End, asked.End)))
            .Distinct()
            .ToList();
        var told = sectors.Count == 1
            ? $"sector {sectors[0]}"
            : $"sectors {sectors[0]} to {sectors[^1]}, {sectors.Count} of them";
        throw new ReadFailedException(
            $"{Path} has no contents at {told}.",
            "The map beside the image says that the disk did not give them.",
            "Let the imaging go on (keel disk image), or work with what was read.",
            sectors);
    }

    private IEnumerable<long> SectorsOf(long start, long end)
    {
        for (var sector = start / SectorBytes; sector * SectorBytes < end; sector++) yield return sector;
    }
}

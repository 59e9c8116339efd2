using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Errors;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;

namespace Keel.Core.Search;

/// <summary>Searches a disk for volumes, whatever its partition table says.</summary>
/// <remarks>
/// Quick: a few thousand usual places, a few KiB at each, and ends of what was found. Thorough: every sector outside what was
/// found for certain, once, in large reads. Both survive sectors that can't be read.
/// </remarks>
public sealed class VolumeSearch
{
    /// <summary>No disk has so many volumes: what claims more is made to tire a searcher.</summary>
    private const int FoundLimit = 4096;

    private const int AlignmentBytes = 1024 * 1024, InsideLimit = 1024;
    private const int SectorBytes = 512, PlaceBytes = 8 * 1024, ChunkBytes = 1024 * 1024, FarMarkAt = 64 * 1024;
    private static readonly IVolumeFinder[] Finders = [new NtfsFinder(), new FatFinder(), new ExFatFinder(), new ForeignFinder()];
    private readonly SearchedDisk disk;
    private readonly IReadOnlyList<ByteRange> listed;
    private readonly List<FoundVolume> found = [];

    private VolumeSearch(SearchedDisk disk, IReadOnlyList<ByteRange> listed)
    {
        this.disk = disk;
        this.listed = listed;
    }

    private IReadableBlocks Blocks => disk.Blocks;

    /// <summary>Looks at the usual places.</summary>
    /// <param name="disk">The disk.</param>
    /// <param name="listed">Partitions of a table, as hints: volumes stand at their ends.</param>
    public static SearchResult Quick(SearchedDisk disk, IReadOnlyList<ByteRange> listed)
    {
        var search = new VolumeSearch(disk, listed);
        search.LookAtPlaces();
        return SearchResult.Of(search.found, disk.Blocks.LengthBytes, isThorough: false);
    }

    /// <summary>Looks at every sector that no volume found for certain fills.</summary>
    /// <param name="disk">The disk.</param>
    /// <param name="listed">Partitions of a table, as hints: volumes stand at their ends.</param>
    public static SearchResult Thorough(SearchedDisk disk, IReadOnlyList<ByteRange> listed)
    {
        var search = new VolumeSearch(disk, listed);
        search.LookAtPlaces();
        search.LookEverywhere();
        return SearchResult.Of(search.found, disk.Blocks.LengthBytes, isThorough: true);
    }

    /// <summary>Whether the disk is a volume from its very first sector on, so that there is no room for a table.</summary>
    public static bool IsVolumeItself(IReadableBlocks disk)
    {
        if (disk.TryReadAnyway(0, SectorBytes) is not { } sector) return false;
        var found = new List<FoundVolume>();
        foreach (var finder in Finders) finder.Look(disk, 0, sector, found);
        return found.Exists(volume => volume.IsCertain && volume.Range.Start == 0);
    }

    private void LookAtPlaces()
    {
        var places = new SearchPlaces(Blocks, listed);
        var lost = new List<long>();
        var inside = 0;
        for (var place = places.From(0); place is { } at; place = places.From(at + 1))
        {
            if (CertainAround(at) is { } around && around.Range.Start < at)
            {
                places.Add(around.Range.End);

                // Another volume may begin there and end behind this one: then the disk can be read in two ways.
                if (!places.IsHint(at) && (at % AlignmentBytes != 0 || ++inside > InsideLimit)) continue;
            }

            var known = found.Count;
            LookAround(at);
            foreach (var volume in found.Skip(known)) places.Add(volume.Range.End);
            if (found.Count == known && (listed.Any(range => range.Start == at || range.End == at) || IsFirst(at))) lost.Add(at);
        }

        foreach (var at in lost.Where(at => CertainAround(at) is null)) LookWithoutSectors(at);
    }

    /// <summary>The usual starts of a first volume.</summary>
    private bool IsFirst(long at) => at == 1024 * 1024 || at == 63L * Blocks.SectorBytes;

    private FoundVolume? CertainAround(long at) => found.Find(volume => volume.IsCertain && volume.Range.Contains(at));

    /// <summary>The sector before a place, where a neighbour's backup stands, and the first ones from it on.</summary>
    private void LookAround(long place)
    {
        var from = Math.Max(0, place - Blocks.SectorBytes);
        var bytes = (int)Math.Min(PlaceBytes + (place - from), Blocks.LengthBytes - from) / SectorBytes * SectorBytes;
        LookAt(from, Read(from, bytes));
        var far = place + FarMarkAt;
        if (far + SectorBytes <= Blocks.LengthBytes) LookAt(far, Read(far, SectorBytes));
    }

    /// <summary>Volumes that lost their boot sector and its copy, at a place where one should begin.</summary>
    private void LookWithoutSectors(long start)
    {
        var end = found.Where(volume => volume.Range.Start > start).Select(volume => volume.Range.Start)
            .Concat(listed.Where(range => range.Start > start).Select(range => range.Start))
            .DefaultIfEmpty(Blocks.LengthBytes)
            .Min();
        var rest = new Slice(new Overlay(Blocks), new ByteRange(start, end - start));
        if (MftSearch.Find(rest) is { } mft)
        {
            var at = start + (mft.MftCluster * mft.ClusterBytes);
            LookAt(at, Read(at, SectorBytes));
        }
        else if (FatRebuild.Sector(rest, serial: 0) is { } sector && FatBootSector.TryRead(sector) is { } boot)
        {
            var range = new ByteRange(start, boot.TotalSectors * boot.BytesPerSector);
            const VolumeEvidence tables = VolumeEvidence.FileTable | VolumeEvidence.FileTableCopy;
            found.Add(new FoundVolume(range, boot.Kind, FileSystemProbe.Name(boot.Kind), tables)
            {
                SectorBytes = boot.BytesPerSector
            });
        }
    }

    private void LookEverywhere()
    {
        var chunk = new byte[ChunkBytes];
        var at = 0L;
        while (at < Blocks.LengthBytes)
        {
            disk.Progress(new SearchProgress(at, Blocks.LengthBytes, found.Count));
            var data = disk.NextData(at) / SectorBytes * SectorBytes;
            if (data > at)
            {
                at = data;
                continue;
            }

            if (CertainAround(at) is { } around)
            {
                at = around.Range.End;
                continue;
            }

            var bytes = (int)Math.Min(ChunkBytes, Blocks.LengthBytes - at) / SectorBytes * SectorBytes;
            if (bytes == 0) break;
            Fill(chunk.AsSpan(0, bytes), at);
            LookAt(at, chunk.AsSpan(0, bytes));
            at += bytes;
        }

        disk.Progress(new SearchProgress(Blocks.LengthBytes, Blocks.LengthBytes, found.Count));
    }

    private void LookAt(long from, ReadOnlySpan<byte> bytes)
    {
        for (var at = 0; at + SectorBytes <= bytes.Length; at += SectorBytes)
        {
            var sector = bytes.Slice(at, SectorBytes);
            if (found.Count >= FoundLimit) return;
            if (!sector.ContainsAnyExcept((byte)0)) continue;
            foreach (var finder in Finders) finder.Look(Blocks, from + at, sector, found);
        }
    }

    private byte[] Read(long from, int bytes)
    {
        var read = new byte[bytes];
        Fill(read, from);
        return read;
    }

    /// <summary>Reads a run of the disk; what it does not give is left empty.</summary>
    private void Fill(Span<byte> bytes, long from)
    {
        try
        {
            Blocks.Read(from, bytes);
        }
        catch (KeelException)
        {
            bytes.Clear();
            for (var at = 0; at + SectorBytes <= bytes.Length; at += SectorBytes)
                Blocks.TryReadAnyway(from + at, SectorBytes)?.CopyTo(bytes[at..]);
        }
    }
}

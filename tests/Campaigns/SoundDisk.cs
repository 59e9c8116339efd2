using Keel.Core.Blocks;
using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Campaigns;

/// <summary>A sound machine, and the places on its disk where structures stand.</summary>
/// <param name="Places">Ranges that are worth changing, in bytes; of one kind each, so that a small one is hit as often as a
///     large one.</param>
internal sealed record SoundDisk(
    string Name,
    SparseDisk Disk,
    IReadOnlyDictionary<string, byte[]> Variables,
    IReadOnlyList<IReadOnlyList<ByteRange>> Places)
{
    private const int HiveBlocks = 64;

    public static SoundDisk Make(string folder, string name, PracticeSpec spec, string fault = "none")
    {
        var path = Path.Combine(folder, name);
        PracticeDisk.Make(path, spec, Faults.FindAll(fault));
        var disk = SparseDisk.Load(path, spec.SectorBytes);
        var variables = Directory.Exists(PracticeVariables.FolderFor(path))
            ? Directory
                .GetFiles(PracticeVariables.FolderFor(path))
                .ToDictionary(file => Path.GetFileName(file), File.ReadAllBytes)
            : [];
        using var machine = Machine.Open([path], variables: null, startsThrough: null, spec.SectorBytes);
        return new SoundDisk(name, disk, variables, Find(disk, machine));
    }

    private static List<IReadOnlyList<ByteRange>> Find(SparseDisk disk, Machine machine)
    {
        const int tableBytes = 34 * 512;
        var places = new List<IReadOnlyList<ByteRange>>
        {
            new[] { new ByteRange(0, 512) },
            new[] { new ByteRange(512, tableBytes), new ByteRange(disk.LengthBytes - tableBytes, tableBytes) }
        };
        places.Add([.. machine.Volumes.Select(volume => new ByteRange(volume.Partition.Range.Start, 512))]);
        places.Add([.. machine.Volumes.Select(volume =>
            new ByteRange(volume.Partition.Range.End - disk.SectorBytes, disk.SectorBytes))]);
        var used = disk.Used;
        Add(places, used.Where(number => disk.Block(number).StartsWith("FILE"u8)));
        Add(places, used.Where(number => disk.Block(number).StartsWith("INDX"u8)));
        Add(
            places,
            used
                .Where(number => disk.Block(number).StartsWith("regf"u8))
                .SelectMany(number => Enumerable.Range(number, HiveBlocks).Where(used.Contains))
                .Distinct());
        Add(places, used.Where(number => disk.Block(number).StartsWith("MZ"u8)));
        foreach (var volume in machine.Volumes.Where(volume =>
            volume.Kind is FileSystemKind.Fat12 or FileSystemKind.Fat16 or FileSystemKind.Fat32))
        {
            places.Add([new ByteRange(volume.Partition.Range.Start + 4096, 256 * 1024)]);
        }

        Add(places, used.Where(number => disk.Block(number).StartsWith("-FVE-FS-"u8)));
        places.Add([.. used.Select(number => new ByteRange((long)number * SparseDisk.BlockBytes, SparseDisk.BlockBytes))]);
        return places;
    }

    private static void Add(List<IReadOnlyList<ByteRange>> places, IEnumerable<int> numbers)
    {
        IReadOnlyList<ByteRange> ranges = [.. numbers.Select(number =>
            new ByteRange((long)number * SparseDisk.BlockBytes, SparseDisk.BlockBytes))];
        if (ranges.Count > 0) places.Add(ranges);
    }
}

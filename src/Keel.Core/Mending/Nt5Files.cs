using Keel.Core.Blocks;
using Keel.Core.Chain.Checks;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Keel.Core.Windows.Media;

namespace Keel.Core.Mending;

/// <summary>Copies of the files that an NT 5 machine starts through: on its volumes, or on a medium.</summary>
internal static class Nt5Files
{
    private const int MostBytes = 2 * 1024 * 1024;
    private static readonly string[] MediumFolders = ["", @"i386\", @"amd64\"];

    /// <summary>The loader, and the program by which it looks at the hardware.</summary>
    public static IReadOnlyList<string> Paths { get; } = [Nt5LoaderCheck.Path, DetectFileCheck.Path];

    /// <summary>A sound copy of a file, and where it comes from; null where none is found.</summary>
    /// <param name="machine">The machine.</param>
    /// <param name="path">The path of the file, one of <see cref="Paths"/>.</param>
    public static (byte[] Bytes, string Source)? Find(Machine machine, string path)
    {
        foreach (var (volume, place) in Places(machine, VolumeExtensions.NameOf(path)))
        {
            if (volume == machine.SystemVolume && place.Equals(path, StringComparison.OrdinalIgnoreCase)) continue;
            if (TryRead(volume, place) is { } bytes && IsSound(path, bytes)) return (bytes, $"{place} on {volume}");
        }

        return null;
    }

    /// <summary>The same from a medium: its own folder, or that of the processor in it.</summary>
    /// <exception cref="RefusedException">It has no such file, or the one it has is packed or damaged.</exception>
    public static (byte[] Bytes, string Source) From(IFileTree medium, string path)
    {
        var name = VolumeExtensions.NameOf(path);
        string[] names = [name, PackedFile.NameFor(name)];
        foreach (var place in MediumFolders.SelectMany(folder => names.Select(one => folder + one)).Where(medium.FileExists))
        {
            var bytes = medium.Read(place);
            if (PackedFile.IsOne(place, bytes)) bytes = PackedFile.Unpack($"{place} in {medium.Name}", bytes);
            if (IsSound(path, bytes)) return (bytes, $"{place} in {medium.Name}");
            throw new RefusedException(
                "Nothing was written.",
                $"{place} in {medium.Name} is cut short, packed, or another file.",
                "Name another medium of the same Windows with --from.");
        }

        throw new RefusedException(
            "Nothing was written.",
            $"{name} is neither in {medium.Name} nor in its folder I386.",
            "Name the folder where the installation medium of the same Windows is mounted, or its ISO image.");
    }

    /// <summary>Service packs leave the newest copies; then come those that Windows keeps, and those that came with it.</summary>
    private static IEnumerable<(DiskVolume Volume, string Path)> Places(Machine machine, string name)
    {
        string[] kept = [@"ServicePackFiles\i386", @"system32\dllcache", @"Driver Cache\i386"];
        foreach (var windows in machine.Installations.Where(found => found.IsNt5))
        {
            foreach (var folder in kept) yield return (windows.Volume, $@"{windows.Folder}\{folder}\{name}");
        }

        foreach (var volume in machine.Volumes)
        {
            yield return (volume, $@"\{name}");
            yield return (volume, $@"\i386\{name}");
        }
    }

    private static byte[]? TryRead(DiskVolume volume, string path)
    {
        try
        {
            return volume.Files is { } files && files.Find(path) is { IsFolder: false, SizeBytes: > 0 and <= MostBytes }
                ? files.ReadFile(path, MostBytes)
                : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }

    private static bool IsSound(string path, byte[] bytes) => path == Nt5LoaderCheck.Path
        ? Nt5LoaderCheck.WhyDamaged(new MemoryBlocks(bytes)) is null
        : DetectFileCheck.IsProgram(new MemoryBlocks(bytes));
}

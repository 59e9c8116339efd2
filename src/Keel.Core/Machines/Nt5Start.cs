using Keel.Core.BootLists;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>What the NT 5 loader of a machine starts when nobody chooses.</summary>
/// <param name="Line">The line of the list; null where the loader takes its own default.</param>
/// <param name="Path">The path that it follows; null where it starts another system from a file.</param>
/// <param name="Volume">The volume that the path means; null where it is not here.</param>
internal sealed record Nt5Start(BootLine? Line, ArcPath? Path, DiskVolume? Volume)
{
    /// <summary>Whether a Windows is where the path leads.</summary>
    public bool IsThere => Volume?.Files is { } files && Path is { } path && files.FolderExists($@"{path.Folder}\System32");

    public static Nt5Start Of(Machine machine)
    {
        if (machine.BootList is not { Condition: BootListCondition.Loaded, List: { } list })
            return On(machine, line: null, ArcPath.Fallback);
        var line = list.Preferred;
        var path = ArcPath.TryParse(list.Default ?? line?.Target ?? "");
        if (path is not null) return On(machine, line, path);

        // Another system is preferred; what is walked is the first Windows of the list.
        return list.Lines.FirstOrDefault(other => other.Arc is not null) is { } first
            ? On(machine, first, first.Arc!)
            : new Nt5Start(line, null, null);
    }

    private static Nt5Start On(Machine machine, BootLine? line, ArcPath path) =>
        new(line, path, ArcPlaces.VolumeOf(machine, path));
}

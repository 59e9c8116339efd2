using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain;

/// <summary>Which installation an entry must mean, by what of it still fits.</summary>
/// <param name="Installation">The only one that fits best; null where none is there, or several fit as well.</param>
/// <param name="Choices">Those that fit best.</param>
internal sealed record EntryFit(WindowsInstallation? Installation, IReadOnlyList<WindowsInstallation> Choices)
{
    private const int Place = 2, Hint = 1;

    public static EntryFit Of(Machine machine, BootEntry entry)
    {
        uint[] devices = [Element.WindowsVolume, Element.ProgramVolume];
        var isInside = devices.Any(element => entry.Device(element) is { IsInVirtualDisk: true });
        var scored = machine.StoreInstallations
            .Where(installation => isInside || installation.Volume.InFile is null)
            .Select(installation => (Installation: installation, Score: ScoreOf(machine, entry, installation)))
            .ToList();
        if (scored.Count == 0) return new EntryFit(null, []);
        var best = scored.Max(choice => choice.Score);
        var choices = scored.Where(choice => choice.Score == best).Select(choice => choice.Installation).ToList();
        return new EntryFit(choices is [var only] ? only : null, choices);
    }

    private static int ScoreOf(Machine machine, BootEntry entry, WindowsInstallation installation)
    {
        var score = 0;
        if (machine.VolumeOf(entry.Device(Element.WindowsVolume)) == installation.Volume) score += Place;
        if (machine.VolumeOf(entry.Device(Element.ProgramVolume)) == installation.Volume) score += Hint;
        if (IsFolder(entry, installation.Folder)) score += Place;
        if (entry.Text(Element.ProgramFile)?.StartsWith(installation.Folder + '\\', StringComparison.OrdinalIgnoreCase) == true)
            score += Hint;
        return score;
    }

    /// <summary>
    /// The volume of the installation that an entry names, where that is here: it has its entry, and no other is bent to it. Null
    /// where none is.
    /// </summary>
    public static DiskVolume? OwnVolume(Machine machine, BootEntry entry) =>
        entry is { IsRecovery: false }
            && entry.Type == EntryType.Windows
            && machine.VolumeOf(entry.Device(Element.WindowsVolume)) is { } volume
            && machine.StoreInstallations.Any(found => found.Volume == volume && IsFolder(entry, found.Folder))
            ? volume
            : null;

    /// <summary>Whether an entry leads to an installation that is here, and to a loader.</summary>
    public static bool IsSound(Machine machine, BootEntry entry) =>
        OwnVolume(machine, entry) is not null
            && machine.VolumeOf(entry.Device(Element.ProgramVolume)) is { Files: { } programs }
            && entry.Text(Element.ProgramFile) is { } program
            && programs.FileExists(program);

    /// <summary>Whether an entry of Windows leads to no installation that is here.</summary>
    public static bool LeadsNowhere(Machine machine, BootEntry entry) =>
        entry.Type == EntryType.Windows && !IsSound(machine, entry);

    /// <summary>Whether an entry names that folder as the one of its Windows.</summary>
    public static bool IsFolder(BootEntry entry, string folder) =>
        folder.Equals(entry.Text(Element.WindowsFolder)?.TrimEnd('\\'), StringComparison.OrdinalIgnoreCase);
}

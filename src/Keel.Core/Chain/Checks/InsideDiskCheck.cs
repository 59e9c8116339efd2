using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Chain.Checks;

/// <summary>Whether the virtual disk file that an entry starts Windows from is there, whole, and can be started from.</summary>
internal static class InsideDiskCheck
{
    public static readonly FindingKind EntryMissing = new(
        "inside-entry-missing",
        Link.WindowsEntry,
        Severity.Error,
        "The store has no entry that starts Windows, and the only Windows lies in a virtual disk file.",
        StartupScreens.NameNotFound,
        StartupScreens.FileInvalid);

    public static readonly FindingKind FileMoved = new(
        "inside-file-moved",
        Link.WindowsEntry,
        Severity.Error,
        "The virtual disk file that Windows starts from lies elsewhere than the entry says.",
        StartupScreens.NoSuchFile,
        StartupScreens.NameNotFound)
    { HidesFrom = Link.LoaderFile };

    public static readonly FindingKind FileMissing = new(
        "inside-file-missing",
        Link.WindowsEntry,
        Severity.Error,
        "The virtual disk file that Windows starts from is not there.",
        StartupScreens.NoSuchFile,
        StartupScreens.NameNotFound)
    {
        HidesFrom = Link.LoaderFile,
        Beyond = "Bring the file back to where the entry looks for it: from a backup, or from where it was moved to."
    };

    public static readonly FindingKind Damaged = new(
        "inside-file-damaged",
        Link.WindowsEntry,
        Severity.Error,
        "The virtual disk file that Windows starts from is damaged, cut short, or lacks the file that it differs from.",
        StartupScreens.FileCorrupt,
        StartupScreens.NoSuchFile)
    {
        HidesFrom = Link.LoaderFile,
        Beyond = "Bring the whole file back from a backup; a missing parent belongs into the folder of the file."
    };

    public static readonly FindingKind ParentMissing = new(
        "inside-parent-missing",
        Link.WindowsEntry,
        Severity.Error,
        "The virtual disk file that Windows starts from holds only what differs from another file, which is not there.",
        StartupScreens.NoSuchFile,
        StartupScreens.NameNotFound)
    {
        HidesFrom = Link.LoaderFile,
        Beyond = "Bring the other file back into the folder of the file that differs from it."
    };

    public static readonly FindingKind VolumeGone = new(
        "inside-volume-gone",
        Link.WindowsEntry,
        Severity.Error,
        "The entry names a volume that the virtual disk file does not have.",
        StartupScreens.NoSuchDevice)
    { HidesFrom = Link.LoaderFile };

    public static readonly FindingKind NoRoom = new(
        "inside-no-room",
        Link.WindowsEntry,
        Severity.Warning,
        "The virtual disk file may grow to more than its volume has room for, and Windows lets it grow at the start.",
        "stop 0x00000136")
    {
        Beyond = "Make room on the volume that the file lies on, or let the program that made the file give it a fixed size."
    };

    public static IReadOnlyList<FindingKind> Kinds =>
    [
        EntryMissing, FileMoved, FileMissing, Damaged, ParentMissing, VolumeGone, NoRoom
    ];

    /// <summary>What is wrong with the disk that a device names; null where nothing is.</summary>
    public static Finding? Of(Machine machine, BootEntry entry, BootDevice device)
    {
        var title = Fact.Title.Is(entry.Title ?? "");
        if (device.AsVirtual() is not { } place) return null;
        var path = Fact.Path.Is(place.File);
        var holder = machine.VolumeOf(place.Holder);
        if (machine.VolumeOf(device) is { } volume)
        {
            return NotWhole(machine, volume) is { } why
                ? Damaged.At(title, path, Fact.Volume.Is(holder!.Ref), Fact.Reason.Is(why))
                : RoomFor(machine, volume, title, path);
        }

        if (holder?.Files?.FileExists(place.File) == true)
        {
            if (machine.Inside.ProblemOf(device) is { } problem)
            {
                var kind = problem.Reason?.Id == InsideDisk.ParentMissing ? ParentMissing : Damaged;
                return kind.At(title, path, Fact.Volume.Is(holder.Ref), Fact.Reason.Is(problem.AsRemark()));
            }

            return VolumeGone.At(title, path, Fact.Volume.Is(holder.Ref));
        }

        if (Successor(machine, place) is { } found)
        {
            return FileMoved.At(
                title,
                path,
                Fact.OtherPath.Is(found.Place.File),
                Fact.Volume.Is(new VolumeRef(found.Host.Path, found.Place.Volume)));
        }

        return FileMissing.At(title, path);
    }

    /// <summary>
    /// The disk that an entry means whose file is not where it says: the only one that was found with a file of that name.
    /// </summary>
    public static InsideDisk? Successor(Machine machine, VirtualPlace place)
    {
        machine.Inside.FindLying();
        var all = machine.Inside.Disks.Select(disk => disk.Inside!).ToList();
        var name = VolumeExtensions.NameOf(place.File);
        var named = all.Where(IsNamedSo).ToList();
        return named is [var only] ? only : null;

        bool IsNamedSo(InsideDisk disk) =>
            VolumeExtensions.NameOf(disk.Place.File).Equals(name, StringComparison.OrdinalIgnoreCase);
    }

    /// <summary>Why the file does not hold all of its disk; null where it does.</summary>
    private static Remark? NotWhole(Machine machine, DiskVolume volume)
    {
        try
        {
            machine.Disks.FirstOrDefault(disk => disk.Path == volume.DiskPath)?.Inside?.CheckTable();
            return null;
        }
        catch (KeelException e)
        {
            return e.AsRemark();
        }
    }

    private static Finding? RoomFor(Machine machine, DiskVolume volume, KnownFact title, KnownFact path)
    {
        var disk = machine.Disks.FirstOrDefault(disk => disk.Path == volume.DiskPath);
        if (disk?.Inside is not { HasParent: false } inside) return null;
        var holder = inside.Host.Volumes.FirstOrDefault(other => other.Number == inside.Place.Volume);
        if (holder?.Files is not { } files || files.Find(inside.Place.File) is not { } file) return null;
        var missing = inside.LengthBytes - file.SizeBytes;
        if (missing <= 0 || files.FreeBytes is var free && free >= missing) return null;
        return NoRoom.At(title, path, Fact.Volume.Is(holder.Ref), Fact.NeededBytes.Is(missing), Fact.FreeBytes.Is(free));
    }
}

using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>The virtual disks in files of a machine's volumes that Windows is started from; they count among its disks.</summary>
public sealed class InsideMachine
{
    private const int MostDisks = 32, MostFiles = 200;
    private static readonly string[] Endings = [".vhd", ".vhdx"], Folders = ["vhd", "virtual", "machines"];
    private readonly Machine machine;
    private readonly List<KnownFile> known = [];
    private bool areNamedFound, areLyingFound;

    internal InsideMachine(Machine machine) => this.machine = machine;

    /// <summary>Those that were found.</summary>
    public IReadOnlyList<MachineDisk> Disks => [.. known.Select(one => one.Disk).OfType<MachineDisk>()];

    /// <summary>Opens those that the store names, and those that lie where they usually do.</summary>
    public void FindAll()
    {
        FindNamed();
        FindLying();
    }

    /// <summary>Opens those that entries of the store name, once.</summary>
    public void FindNamed()
    {
        if (areNamedFound || machine.StartDisk.Inside is not null) return;
        areNamedFound = true;
        foreach (var device in Named().ToList()) Open(device.AsVirtual()!);
    }

    /// <summary>The device values of the store that name a volume in a virtual disk file.</summary>
    private IEnumerable<BootDevice> Named() => machine.Store.Store is not { } store
        ? []
        : store.Entries
            .SelectMany(entry => entry.Elements.Where(Element.IsDevice).Select(entry.Device))
            .OfType<BootDevice>()
            .Where(device => device.AsVirtual() is not null);

    /// <summary>Opens those that lie where they usually do: in the root of a volume, and in folders named for them.</summary>
    public void FindLying()
    {
        if (areLyingFound || machine.StartDisk.Inside is not null) return;
        areLyingFound = true;
        foreach (var volume in machine.Volumes.ToList())
        {
            foreach (var path in Lying(volume)) Open(volume, path);
        }
    }

    /// <summary>
    /// Whether an installation on a volume is one for the store of the machine: those of a virtual disk that starts by itself,
    /// and that no entry names, belong to another machine.
    /// </summary>
    internal bool IsForStore(DiskVolume volume)
    {
        if (volume.InFile is null || Named().Any(place => VolumeOf(place)?.DiskPath == volume.DiskPath)) return true;
        string[] managers = [@"\bootmgr", @"\EFI\Microsoft\Boot\bootmgfw.efi"];
        var disk = Disks.FirstOrDefault(known => known.Path == volume.DiskPath);
        return disk?.Volumes.Any(other => managers.Any(path => other.Files?.FileExists(path) == true)) != true;
    }

    /// <summary>Why the file that a device names gives no disk; null where it does.</summary>
    public KeelException? ProblemOf(BootDevice device) =>
        device.AsVirtual() is { } place && machine.VolumeOf(place.Holder) is { } holder ? Open(holder, place.File).Problem : null;

    /// <summary>The volume inside that a device names; null where it is not there.</summary>
    internal DiskVolume? VolumeOf(BootDevice device)
    {
        if (device.AsVirtual() is not { } place || Open(place) is not { } disk) return null;
        return disk.Volumes.FirstOrDefault(volume => place.PartitionGuid is { } id
            ? volume.Partition.Id == id
            : volume.Partition.Range.Start == place.StartBytes);
    }

    /// <summary>The volume of Windows on a disk inside, which is taken among the machine's disks.</summary>
    /// <exception cref="UnreadableException">There is no such file, or no Windows in it.</exception>
    public static DiskVolume WindowsVolume(Machine machine, InsidePath place)
    {
        var holder = machine.StartDisk.Volumes.FirstOrDefault(volume => volume.Number == place.Volume)
            ?? throw new WrongUsageException(
                $"There is no volume {place.Volume} on {machine.StartDisk.Path}.",
                $"It has {machine.StartDisk.Volumes.Count} volumes.",
                "'keel survey DISK' lists them.");
        var found = machine.Inside.Open(holder, place.File);
        if (found.Problem is { } problem) throw problem;
        return machine.Installations.FirstOrDefault(installation => installation.Volume.DiskPath == found.Disk!.Path)?.Volume
            ?? throw new RefusedException(
                "Nothing was written.",
                $"There is no Windows on the disk in {place.File}.",
                "'keel survey DISK --inside' with the same place shows what it holds.");
    }

    /// <summary>
    /// Where such files lie on a volume; what the disk does not give is not looked into, and told where it is needed.
    /// </summary>
    private static List<string> Lying(DiskVolume volume)
    {
        try
        {
            return volume.Files is { } files ? [.. Lying(files).Take(MostFiles)] : [];
        }
        catch (KeelException)
        {
            return [];
        }
    }

    private static IEnumerable<string> Lying(IVolume files)
    {
        foreach (var file in files.List(""))
        {
            if (!file.IsFolder && IsOne(file.Name)) yield return $@"\{file.Name}";
            if (!file.IsFolder || !Folders.Any(name => file.Name.StartsWith(name, StringComparison.OrdinalIgnoreCase))) continue;
            foreach (var inner in files.List($@"\{file.Name}").Where(inner => !inner.IsFolder && IsOne(inner.Name)))
                yield return $@"\{file.Name}\{inner.Name}";
        }
    }

    private static bool IsOne(string name) => Endings.Any(ending => name.EndsWith(ending, StringComparison.OrdinalIgnoreCase));

    private MachineDisk? Open(VirtualPlace place) =>
        machine.VolumeOf(place.Holder) is { } holder ? Open(holder, place.File).Disk : null;

    private KnownFile Open(DiskVolume holder, string file)
    {
        var index = known.FindIndex(one => one.Holder.DiskPath == holder.DiskPath && one.Holder.Number == holder.Number
            && one.File.Equals(file, StringComparison.OrdinalIgnoreCase));
        if (index >= 0 && known[index].Disk is not null) return known[index];
        if (index >= 0) known.RemoveAt(index);
        if (known.Count >= MostDisks) return new KnownFile(holder, file, null, TooMany());
        known.Add(Try(holder, file));
        return known[^1];
    }

    private static UnreadableException TooMany() => new(
        "There are more virtual disk files than keel looks into at once.",
        $"It looks into {MostDisks}.",
        "Name the one that is meant: --inside volume:N:FILE");

    private KnownFile Try(DiskVolume holder, string file)
    {
        try
        {
            var host = machine.Disks.First(disk => disk.Path == holder.DiskPath);
            return new KnownFile(holder, file, machine.Add(host, new InsidePath(holder.Number, file)), null);
        }
        catch (KeelException e)
        {
            return new KnownFile(holder, file, null, e);
        }
    }

    /// <summary>A file that was opened, or could not be.</summary>
    /// <param name="Holder">The volume that it is on.</param>
    /// <param name="File">Its path.</param>
    /// <param name="Disk">The disk in it; null where it could not be opened.</param>
    /// <param name="Problem">Why not.</param>
    private sealed record KnownFile(DiskVolume Holder, string File, MachineDisk? Disk, KeelException? Problem);
}

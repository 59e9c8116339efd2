using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Firmware;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Keel.Tests;

namespace Keel.Core.Tests.Makers;

/// <summary>Furnishes the disks of a maker's layout: a Windows, its boot files, its recovery environment, its store.</summary>
internal sealed class MakersMachine(MakersLayout layout, Scratch scratch)
{
    private readonly Random chance = new(layout.Name.Aggregate(17, (sum, letter) => unchecked(sum * 31 + letter)));
    private readonly List<MakersDisk> disks = [];

    private PracticeSpec Spec => new() { Build = layout.Build, Product = Product, MachineName = "PURSER-07" };

    private string Product => layout.Build switch
    {
        < 9200 => "Windows 7 Professional",
        < 10000 => "Windows 8.1 Pro",
        < 22000 => "Windows 10 Pro",
        _ => "Windows 11 Pro"
    };

    /// <summary>Makes the disks and gives the machine that they are in.</summary>
    public async Task<Machine> Make()
    {
        foreach (var (text, number) in layout.Disks.Select((text, number) => (text, number)))
            disks.Add(await MakersDisk.Make(scratch[$"disk{number}.img"], text, layout.FirstSector, chance));
        foreach (var disk in disks.Where(disk => disk.Parts.Any(part => part.IsActive))) disk.WriteStartCode();
        if (layout.HasVariables) Directory.CreateDirectory(scratch["variables"]);
        Change(machine =>
        {
            foreach (var volume in All("windows").Select(place => VolumeOf(machine, place)))
                PracticeFiles.WriteWindows(volume, Spec, [.. machine.Volumes.Where(other => other.DiskPath == volume.DiskPath)]);
        });
        if (Find("medium") is { } medium) await FillMedium(medium);
        else if ((Find("system", "esp", "esp-hidden") ?? Find("windows")) is { } system) await FillSystem(system);
        if (layout.IsCloned) File.Copy(disks[0].Path, scratch["clone.img"]);
        return Open();
    }

    /// <summary>The first partition of the first of these roles that there is one of.</summary>
    private MakersPlace? Find(params string[] roles) => roles.SelectMany(role => All(role)).FirstOrDefault();

    private IEnumerable<MakersPlace> All(params string[] roles) =>
        from disk in disks
        from part in disk.Parts
        where roles.Contains(part.Role.Name)
        select new MakersPlace(disk, part);

    private static DiskVolume VolumeOf(Machine machine, MakersPlace place) =>
        machine.Volumes.Single(volume => volume.DiskPath == place.Disk.Path && volume.Partition.Range == place.Part.Range);

    private async Task FillSystem(MakersPlace system)
    {
        var windows = All(Find("windows") is null ? "locked" : "windows").ToList();
        if (windows.Count == 0) return;
        var recoveries = All("winre", "winre-plain").ToList();
        var store = await Store(system, windows, recoveries).Write(scratch);
        Change(machine =>
        {
            foreach (var (holder, installation) in recoveries.Zip(machine.Installations))
                PracticeRecovery.Write(VolumeOf(machine, holder), installation.Volume);
            var volume = VolumeOf(machine, system);
            if (!system.IsEfi) BootSectorEditor.WriteCode(volume, KeelBootCode.Ntfs(LoaderKind.BootManager));
            WriteBootFiles(machine, volume, system.IsEfi ? BootFiles.Uefi : BootFiles.Bios, store);
            if (layout.HasVariables) FillVariables(machine.Variables!, volume);
        });
    }

    /// <summary>An entry for each Windows, with a recovery environment as long as there are any.</summary>
    private MakersStore Store(MakersPlace system, List<MakersPlace> windows, List<MakersPlace> recoveries)
    {
        var suffix = system.IsEfi ? "efi" : "exe";
        var store = new MakersStore();
        var order = new List<string>();
        var firstResume = "";
        foreach (var (place, number) in windows.Select((place, number) => (place, number)))
        {
            string? recovery = null;
            if (number < recoveries.Count)
            {
                recovery = NewId();
                store.Recovery(recovery, NewId(), recoveries[number].Device, PracticeRecovery.Folder, suffix);
            }

            var device = layout.Devices switch
            {
                "start" => MakersStore.StartedFrom(),
                "search" => MakersStore.Search(0x12000002),
                _ => place.Device
            };
            var (id, resume) = (NewId(), NewId());
            store.Windows(id, resume, device, suffix, $"{Product} {number + 1}", recovery, layout.Build >= 9200);
            order.Add(id);
            if (number == 0) firstResume = resume;
        }

        store.Finish(system.Device, system.IsEfi, firstResume, order);
        return store;
    }

    private static void FillVariables(FirmwareVariables variables, DiskVolume system)
    {
        const ushort network = 0, windows = 3;
        var place = HardDrivePlace.Of(system.DiskIdentity, system.Partition, system.Blocks.SectorBytes);
        variables.SetEntry(network, PracticeVariables.Network());
        variables.SetEntry(windows, LoadOption.OfWindows("Windows Boot Manager", place, BootFiles.Uefi.ManagerPath));
        variables.Order = [windows, network];
    }

    private void WriteBootFiles(Machine machine, DiskVolume system, BootFiles files, byte[] store)
    {
        var contents = machine.Installations is [{ } first, ..] ? OfWindows(machine, first, files) : OfLockedWindows(files);
        system.Edit(volume =>
        {
            foreach (var (target, bytes) in contents.Append((files.StorePath, store)))
            {
                volume.CreateFolder(VolumeExtensions.FolderOf(target));
                volume.WriteFile(target, bytes);
                volume.SetMarks(target, UsualMarks.Of(target));
            }
        });
    }

    private static List<(string Target, byte[] Bytes)> OfWindows(
        Machine machine,
        WindowsInstallation installation,
        BootFiles files)
    {
        var source = BootFileSource.Of(installation);
        return [.. source.FilesFor(files, machine.Processor).Select(copy => (copy.Target, source.Read(copy)))];
    }

    /// <summary>The boot files of a Windows that can't be looked into.</summary>
    private List<(string Target, byte[] Bytes)> OfLockedWindows(BootFiles files)
    {
        var version = $"10.0.{layout.Build}.1";
        if (files == BootFiles.Bios) return [(files.ManagerPath, StandInManager.MakeBios(version))];
        var manager = StandInManager.MakeEfi("bootmgfw.efi", version);
        return [(files.ManagerPath, manager), (@"\EFI\Boot\bootx64.efi", manager)];
    }

    /// <summary>A medium of setup: boot files of both kinds, and images where a machine has its Windows.</summary>
    private async Task FillMedium(MakersPlace place)
    {
        var bytes = new Dictionary<string, byte[]>();
        foreach (var (path, suffix) in (((string, string)[])[(@"\boot\bcd", "exe"), (@"\efi\microsoft\boot\bcd", "efi")]))
        {
            var (store, entry) = (new MakersStore(), NewId());
            store.Recovery(entry, NewId(), MakersStore.StartedFrom(), @"\sources", suffix);
            store.Finish(MakersStore.StartedFrom(), suffix == "efi", entry, [entry]);
            bytes[path] = await store.Write(scratch);
        }

        Change(machine => VolumeOf(machine, place).Edit(files =>
        {
            var efi = StandInManager.MakeEfi("bootmgfw.efi", $"10.0.{layout.Build}.1");
            foreach (var (path, contents) in (((string, byte[])[])
                [
                    (@"\efi\boot\bootx64.efi", efi),
                    (@"\bootmgr.efi", efi),
                    (@"\bootmgr", StandInManager.MakeBios($"10.0.{layout.Build}.1")),
                    (@"\sources\Winre.wim", PracticeRecovery.Image()),
                    (@"\sources\boot.sdi", new byte[3168]),
                    (@"\boot\bcd", bytes[@"\boot\bcd"]),
                    (@"\efi\microsoft\boot\bcd", bytes[@"\efi\microsoft\boot\bcd"])
                ]))
            {
                files.CreateFolder(VolumeExtensions.FolderOf(path));
                files.WriteFile(path, contents);
            }
        }));
        if (!place.Part.IsActive) return;
        Change(machine => BootSectorEditor.WriteCode(
            VolumeOf(machine, place),
            KeelBootCode.Fat32(LoaderKind.BootManager)));
    }

    private string NewId()
    {
        var bytes = new byte[16];
        chance.NextBytes(bytes);
        return new Guid(bytes).ToString();
    }

    public Machine Open()
    {
        var paths = disks.ConvertAll(disk => disk.Path);
        if (layout.IsCloned && File.Exists(scratch["clone.img"])) paths.Add(scratch["clone.img"]);
        return Machine.Open(
            paths,
            layout.HasVariables ? FirmwareVariables.Open(scratch["variables"]) : null,
            startsThrough: null);
    }

    /// <summary>Writes what a change left in the overlays into the images.</summary>
    public void Change(Action<Machine> change)
    {
        var changed = new List<(string Path, long Start, byte[] Bytes)>();
        using (var machine = Open())
        {
            change(machine);
            foreach (var disk in OutermostChanges.Changes(machine))
            {
                foreach (var range in disk.Changes.Ranges)
                {
                    var bytes = new byte[range.Length];
                    disk.Changes.CopyAfter(range, bytes);
                    changed.Add((disk.Path, range.Start, bytes));
                }
            }

            foreach (var file in machine.Variables?.Changes() ?? [])
                VariableFile.Write(scratch["variables"], file.Name, file.After);
        }

        foreach (var group in changed.GroupBy(part => part.Path, StringComparer.Ordinal))
        {
            using var image = DiskFile.OpenForWriting(group.Key);
            foreach (var (_, start, bytes) in group) image.Write(start, bytes);
        }
    }
}

using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Firmware;
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
            foreach (var (volume, _) in Parts(machine, "windows"))
                PracticeFiles.WriteWindows(volume, Spec, [.. machine.Volumes.Where(other => other.DiskPath == volume.DiskPath)]);
        });
        if (Find("medium") is not null) await FillMedium();
        else if (Find("system", "esp", "esp-hidden") is not null || Find("windows") is { Part.IsActive: true }) await FillSystem();
        if (layout.IsCloned) File.Copy(disks[0].Path, scratch["clone.img"]);
        return Open();
    }

    private (MakersDisk Disk, MakersPart Part)? Find(params string[] roles)
    {
        foreach (var role in roles)
        {
            foreach (var disk in disks)
            {
                if (disk.Parts.FirstOrDefault(part => part.Role.Name == role) is { } part) return (disk, part);
            }
        }

        return null;
    }

    /// <summary>The volumes of these roles, in the order of the disks.</summary>
    private IEnumerable<(DiskVolume Volume, (MakersDisk Disk, MakersPart Part) Place)> Parts(Machine machine, params string[] roles) =>
        from disk in disks
        from part in disk.Parts
        where roles.Contains(part.Role.Name)
        select (machine.Volumes.Single(volume => volume.DiskPath == disk.Path && volume.Partition.Range == part.Range), (disk, part));

    private async Task FillSystem()
    {
        var place = Find("system", "esp", "esp-hidden") ?? Find("windows")!.Value;
        var isUefi = place.Part.Role.FileSystem == "fat32";
        var suffix = isUefi ? "efi" : "exe";
        var store = new MakersStore();
        var order = new List<string>();
        var recoveries = disks
            .SelectMany(disk => disk.Parts.Select(part => (Disk: disk, Part: part)))
            .Where(other => other.Part.Role.Name.StartsWith("winre", StringComparison.Ordinal))
            .ToList();
        var windows = disks
            .SelectMany(disk => disk.Parts.Select(part => (Disk: disk, Part: part)))
            .Where(other => other.Part.Role.Name == (Find("windows") is null ? "locked" : "windows"))
            .ToList();
        var resume = NewId();
        foreach (var (disk, part) in windows)
        {
            var id = NewId();
            string? recovery = null;
            if (recoveries.Count > order.Count)
            {
                recovery = NewId();
                var (holderDisk, holder) = recoveries[order.Count];
                store.Recovery(recovery, NewId(), holderDisk.Device(holder), PracticeRecovery.Folder, suffix);
            }

            var device = layout.Devices switch
            {
                "start" => MakersStore.StartedFrom(),
                "search" => MakersStore.Search(0x12000002),
                _ => disk.Device(part)
            };
            var own = order.Count == 0 ? resume : NewId();
            store.Windows(id, own, device, suffix, $"{Product} {order.Count + 1}", recovery, layout.Build >= 9200);
            order.Add(id);
        }

        if (order.Count == 0) return;
        store.Finish(place.Disk.Device(place.Part), isUefi, resume, order);
        var bytes = await store.Write(scratch);
        Change(machine =>
        {
            foreach (var (holder, number) in Parts(machine, "winre", "winre-plain").Select((found, number) => (found.Volume, number)))
            {
                if (machine.Installations.ElementAtOrDefault(number) is { } recovered)
                    PracticeRecovery.Write(holder, recovered.Volume);
            }

            var system = machine.Volumes.Single(volume =>
                volume.DiskPath == place.Disk.Path && volume.Partition.Range == place.Part.Range);
            var files = isUefi ? BootFiles.Uefi : BootFiles.Bios;
            if (!isUefi) BootSectorEditor.WriteCode(system, KeelBootCode.Ntfs(LoaderKind.BootManager));
            WriteBootFiles(machine, system, files, bytes);
            if (!layout.HasVariables) return;
            var option = LoadOption.OfWindows(
                "Windows Boot Manager",
                HardDrivePlace.Of(system.DiskIdentity, system.Partition, system.Blocks.SectorBytes),
                BootFiles.Uefi.ManagerPath);
            machine.Variables!.SetEntry(0, PracticeVariables.Network());
            machine.Variables.SetEntry(3, option);
            machine.Variables.Order = [3, 0];
        });
    }

    private void WriteBootFiles(Machine machine, DiskVolume system, BootFiles files, byte[] store)
    {
        var contents = machine.Installations is [{ } first, ..]
            ? BootFileSource.Of(first) is var source
                ? source.FilesFor(files, machine.Processor).Select(copy => (copy.Target, Bytes: source.Read(copy))).ToList()
                : []
            : OfLockedWindows(files);
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

    /// <summary>The boot files of a Windows that can't be looked into.</summary>
    private List<(string Target, byte[] Bytes)> OfLockedWindows(BootFiles files)
    {
        var version = $"10.0.{layout.Build}.1";
        if (files == BootFiles.Bios) return [(files.ManagerPath, StandInManager.MakeBios(version))];
        var manager = StandInManager.MakeEfi("bootmgfw.efi", version);
        return [(files.ManagerPath, manager), (@"\EFI\Boot\bootx64.efi", manager)];
    }

    /// <summary>A medium of setup: boot files of both kinds, and images where a machine has its Windows.</summary>
    private async Task FillMedium()
    {
        var place = Find("medium")!.Value;
        var bytes = new Dictionary<string, byte[]>();
        foreach (var (path, suffix) in (((string, string)[])[(@"\boot\bcd", "exe"), (@"\efi\microsoft\boot\bcd", "efi")]))
        {
            var (store, entry) = (new MakersStore(), NewId());
            store.Recovery(entry, NewId(), MakersStore.StartedFrom(), @"\sources", suffix);
            store.Finish(MakersStore.StartedFrom(), suffix == "efi", entry, [entry]);
            bytes[path] = await store.Write(scratch);
        }

        Change(machine => Parts(machine, "medium").Single().Volume.Edit(files =>
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
            Parts(machine, "medium").Single().Volume,
            KeelBootCode.Fat32(LoaderKind.BootManager)));
    }

    private string NewId()
    {
        var bytes = new byte[16];
        chance.NextBytes(bytes);
        return new Guid(bytes).ToString();
    }

    private Machine Open()
    {
        string[] paths = [.. disks.Select(disk => disk.Path), .. layout.IsCloned && File.Exists(scratch["clone.img"]) ? [scratch["clone.img"]] : Array.Empty<string>()];
        return Machine.Open(
            paths,
            layout.HasVariables ? FirmwareVariables.Open(scratch["variables"]) : null,
            startsThrough: null);
    }

    /// <summary>Writes what a change left in the overlays into the images.</summary>
    private void Change(Action<Machine> change)
    {
        var changed = new List<(string Path, long Start, byte[] Bytes)>();
        using (var machine = Open())
        {
            change(machine);
            foreach (var disk in FoldedDisks.Changes(machine))
            {
                foreach (var range in disk.Changes.Ranges)
                {
                    var bytes = new byte[range.Length];
                    disk.Changes.CopyAfter(range, bytes);
                    changed.Add((disk.Path, range.Start, bytes));
                }
            }

            foreach (var file in machine.Variables?.Changes() ?? []) VariableFile.Write(scratch["variables"], file.Name, file.After);
        }

        foreach (var group in changed.GroupBy(part => part.Path, StringComparer.Ordinal))
        {
            using var image = DiskFile.OpenForWriting(group.Key);
            foreach (var (_, start, bytes) in group) image.Write(start, bytes);
        }
    }
}

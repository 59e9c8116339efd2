using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>
/// What a technician asks of boot files: attributes, and recreating them. Done in the overlay, like every repair.
/// </summary>
public static class FileRequests
{
    private const int LostShown = 8, LostLimit = 5000;

    /// <summary>
    /// The volume that a path is looked up on: the one named, else the system volume where it has it, else the first that has it.
    /// </summary>
    /// <exception cref="UnreadableException">No volume has it.</exception>
    public static DiskVolume VolumeWith(Machine machine, string path, int? number)
    {
        if (number is not null) return BootCodeRequests.VolumeOrSystem(machine, number);
        var candidates = machine.SystemVolume is { } system
            ? machine.Volumes.Where(volume => volume != system).Prepend(system)
            : machine.Volumes;
        return candidates.FirstOrDefault(volume => volume.Files?.Find(path) is not null)
            ?? throw new UnreadableException(
                $"{path} is not there.",
                $"Looked into: {LookedInto(machine)}.{Locks.Told(machine)}",
                NearPath(candidates, path) ?? Locks.TodoOr(
                    machine,
                    "Write the path from the top of its volume, as in \\Boot\\BCD; 'keel files list' shows the boot files."));
    }

    /// <summary>What was meant, where a shell took the backslashes of a path away; null where nothing is spelled so.</summary>
    public static string? NearPath(IEnumerable<DiskVolume> volumes, string path) => volumes
        .Select(volume => volume.Files is { } files ? EatenPath.Find(files, path) : null)
        .FirstOrDefault(found => found is not null) is { } near
            ? $"Did you mean '{near}'? Write it in quotes: the shell takes backslashes away."
            : null;

    private static string LookedInto(Machine machine) =>
        machine.Volumes.Where(volume => volume.Files is not null).Select(volume => $"{volume}").ToList() is { Count: > 0 } volumes
            ? string.Join(", ", volumes)
            : "no volume";

    /// <summary>Gives a file other attributes.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="path">The path of the file, or a pattern.</param>
    /// <param name="number">The number of the volume, from 1; null to choose.</param>
    /// <param name="change">From those that it has to those that it gets.</param>
    public static Plan Mark(Machine machine, string path, int? number, Func<VolumeFile, FileMarks> change)
    {
        var volume = VolumeWith(machine, path, number);
        var file = volume.Files?.Find(path)
            ?? throw new UnreadableException(
                $"{path} is not on {volume}.",
                "No file or folder has this path there.",
                "'keel files list' shows the boot files.");
        var marks = change(file) & FileMarks.Changeable;
        return Plan.ForRequest(machine, id =>
        {
            if ((file.Marks & FileMarks.Changeable) != marks) volume.Edit(files => files.SetMarks(path, marks));
            return new Step(
                Link.ManagerFile,
                id,
                Remark.Of("step.attributes", Fact.Path.Is(path), Fact.Volume.Is(volume.Ref)),
                Remark.Of(
                    "line.attributes",
                    Fact.Before.Is(FileMarksText.Words(file.Marks & FileMarks.Changeable)),
                    Fact.After.Is(FileMarksText.Words(marks))));
        });
    }

    /// <summary>Recreates the boot files of the system volume, and a store where there is none.</summary>
    public static Plan Renew(Machine machine, int? number, RenewTerms renew, RepairTerms terms)
    {
        if (machine.Nt5Evidence is not null) return RenewNt5(machine, number, renew);
        var system = BootCodeRequests.VolumeOrSystem(machine, number);
        var kinds = renew.Kinds.Count > 0 ? renew.Kinds : [machine.BootFiles];
        var source = SourceFor(machine, renew, kinds);
        foreach (var kind in kinds) RefuseUnsuitable(machine, system, kind, renew.Format);
        var wanted = system.Number;
        var acts = new List<Func<string, Step?>>();
        if (renew.Format) acts.Add(id => Format(machine, BootCodeRequests.VolumeOrSystem(machine, wanted), renew, terms, id));
        foreach (var kind in kinds)
        {
            acts.Add(id =>
                FilesStep(
                    machine,
                    BootCodeRequests.VolumeOrSystem(machine, wanted),
                    source,
                    source.FilesFor(kind, machine.Processor),
                    kind,
                    renew,
                    id));
            acts.Add(id => StoreStep(machine, BootCodeRequests.VolumeOrSystem(machine, wanted), kind, terms, id));
        }

        return Plan.ForRequests(machine, acts);
    }

    /// <summary>Recreates the loader of an NT 5 machine, and the program by which it looks at the hardware.</summary>
    private static Plan RenewNt5(Machine machine, int? number, RenewTerms renew)
    {
        if (renew.Format || renew.Kinds.Count > 0)
            BootCodeRequests.RefuseNt5(
                machine,
                "Leave the firmware and the new file system out: NTLDR and NTDETECT.COM are renewed.");
        var system = BootCodeRequests.VolumeOrSystem(machine, number);
        var acts = Nt5Files.Paths.Select(path => (Func<string, Step?>)(id => RenewNt5(machine, system, path, renew, id)));
        return Plan.ForRequests(machine, [.. acts]);
    }

    private static Step? RenewNt5(Machine machine, DiskVolume system, string path, RenewTerms renew, string id)
    {
        var copy = renew.Folder is { } medium ? Nt5Files.From(medium, path) : Nt5Files.Find(machine, path)
            ?? throw new RefusedException(
                "Nothing was written.",
                $"No sound copy of {path} is on the disks.",
                "Mount an installation medium of the same Windows, and name its folder with --from.");
        if (!renew.All
            && system.Files?.Find(path) is { IsFolder: false }
            && system.Files.ReadFile(path).AsSpan().SequenceEqual(copy.Bytes))
        {
            return null;
        }

        var line = Remark.Of("line.file", Fact.Path.Is(path), Fact.Volume.Is(system.Ref));
        system.Edit(files => line = line.With(Fact.Change.Is(BootFileRenewal.WriteOne(files, path, copy.Bytes))));
        return new Step(
            Link.LoaderFile,
            id,
            Remark.Of("step.renew-nt5-file", Fact.Path.Is(path), Fact.Volume.Is(system.Ref), Fact.Source.Is(copy.Source)),
            line);
    }

    private static Step FilesStep(
        Machine machine,
        DiskVolume system,
        BootFileSource source,
        IReadOnlyList<BootFileCopy> copies,
        BootFiles kind,
        RenewTerms renew,
        string id) => new(
        Link.ManagerFile,
        id,
        Remark.Of(
            "step.renew-files",
            Fact.Firmware.Is(kind.IsUefi ? "UEFI" : "BIOS"),
            Fact.Volume.Is(system.Ref),
            Fact.Source.Is(source.Name)),
        BootFileRenewal.Write(machine, system, source, copies, renew.All));

    private static Step? StoreStep(Machine machine, DiskVolume system, BootFiles kind, RepairTerms terms, string id)
    {
        if (machine.StoreInstallations.Count == 0 || system.Files?.Find(kind.StorePath) is not null) return null;
        var (bytes, lines) = StoreRebuild.Build(machine, system, kind, old: null, machine.StoreInstallations, terms);
        system.Edit(files => BootFileRenewal.WriteOne(files, kind.StorePath, bytes));
        return new Step(
            Link.Store,
            id,
            Remark.Of("step.make-store", Fact.Volume.Is(system.Ref)),
            [.. lines, StoreRebuild.Made(kind.StorePath, system, bytes)]);
    }

    private static Step Format(Machine machine, DiskVolume system, RenewTerms renew, RepairTerms terms, string id)
    {
        var lost = Lost(system);
        var serial = renew.Serial ?? BitConverter.ToUInt32(terms.NewId().ToByteArray());
        return VolumeFormat.Of(system, renew.Label, serial, lost, id);
    }

    /// <summary>What a format would take: a line for each file at first, then their number.</summary>
    private static List<StepDetail> Lost(DiskVolume volume)
    {
        if (volume.Files is not { } files) return [StepDetail.Lost(Loss.Files, Remark.Of("line.loss-unknown"))];
        var paths = new List<string>();
        var unread = false;
        try
        {
            Collect(files, "", paths, 0);
        }
        catch (KeelException)
        {
            unread = true;
        }

        if (paths.Count == 0 && !unread) return [Remark.Of("line.nothing-lost")];
        var own = paths.Count(IsOfWindows);
        var others = paths.Where(path => !IsOfWindows(path)).ToList();
        var lost = others.Take(LostShown).Select(path => Remark.Of("line.lost", Fact.Path.Is(path))).ToList();
        if (others.Count > LostShown) lost.Add(Remark.Of("line.lost-more", Fact.FileCount.Is(others.Count - LostShown)));
        if (unread) lost.Add(Remark.Of("line.lost-unread"));
        var lines = lost.ConvertAll(line => StepDetail.Lost(Loss.Files, line));
        if (own > 0) lines.Add(Remark.Of("line.own-deleted", Fact.FileCount.Is(own)));
        return lines;
    }

    private static bool IsOfWindows(string path) =>
        path.StartsWith(BootFiles.Uefi.StoreFolder + '\\', StringComparison.OrdinalIgnoreCase)
            || path.StartsWith(FallbackFile.Folder + '\\', StringComparison.OrdinalIgnoreCase);

    private static void Collect(IVolume files, string folder, List<string> paths, int depth)
    {
        const int depthLimit = 16;
        foreach (var file in files.List(folder))
        {
            if (paths.Count >= LostLimit) return;
            if (!file.IsFolder) paths.Add($@"{folder}\{file.Name}");
            else if (depth < depthLimit) Collect(files, $@"{folder}\{file.Name}", paths, depth + 1);
        }
    }

    private static BootFileSource SourceFor(Machine machine, RenewTerms renew, IReadOnlyList<BootFiles> kinds)
    {
        var known = machine.Installations;
        if (renew.Folder is { } folder)
        {
            return BootFileSource.TryOf(folder) is { } found && kinds.All(found.Has) ? found : throw new RefusedException(
                $"{folder.Name} holds no boot "
                    + $"files{(BootFileSource.TryOf(folder) is null ? "" : " for this machine's firmware")}, and nothing was "
                    + "written.",
                $"Neither a folder Windows\\Boot with them is there, nor are those of an installation medium. {Elsewhere(known)}",
                known.Count > 0
                    ? "Leave --from out to take those of the Windows on the disk."
                    : "Name the folder where the medium or the other Windows is mounted.");
        }

        if (renew.SourceVolume is { } number)
        {
            return known.FirstOrDefault(installation =>
                installation.Volume.DiskPath == machine.StartDisk.Path && installation.Volume.Number == number) is { } chosen
                ? BootFileSource.Of(chosen)
                : throw new RefusedException(
                $"There is no Windows folder on volume {number}, and nothing was written.",
                Elsewhere(known),
                known.Count > 0
                    ? $"Run it with --from volume:{known[0].Volume.Number}, or leave --from out."
                    : "Name an installation medium: --from FOLDER");
        }

        return machine.Installations
            .OrderByDescending(installation => installation.Build)
            .Select(BootFileSource.Of)
            .FirstOrDefault(source => kinds.All(source.Has))
            ?? throw new RefusedException(
            "There is nothing to recreate the boot files from, and nothing was written.",
            known.Count == 0
                ? $"No Windows installation was found; looked into: {LookedInto(machine)}.{Locks.Told(machine)}"
                : $"{known[0]} has no copies of them for this firmware.",
            Locks.TodoOr(machine, "Mount an installation medium of the same Windows, and name it with --from FOLDER."));
    }

    private static string Elsewhere(IReadOnlyList<WindowsInstallation> known) => known.Count == 0
        ? "No Windows installation was found on the disks given."
        : $"There is one on {string.Join(" and ", known.Select(installation => installation.Volume.ToString()).Distinct())}.";

    /// <summary>Refuses before the first change what could never start.</summary>
    private static void RefuseUnsuitable(Machine machine, DiskVolume system, BootFiles kind, bool format)
    {
        if (format && (!system.Partition.IsEfiSystem || !kind.IsUefi))
        {
            throw new RefusedException(
                $"{system} was not formatted.",
                system.Partition.IsEfiSystem
                    ? "Only a system volume for UEFI is formatted."
                    : $"It is no EFI system partition, its type is {system.Partition.TypeName}; keel formats nothing else.",
                "Leave --new-file-system out.");
        }

        if (!kind.IsUefi && machine.Firmware == FirmwareKind.Uefi)
        {
            throw new RefusedException("Nothing was written.", "", "Leave --for out, or say --for uefi.")
            {
                Reason = Remark.Of("bios-files-on-uefi", Fact.Reason.Is(machine.FirmwareReason))
            };
        }

        if (kind.IsUefi && !format && system.Kind is not (FileSystemKind.Fat12 or FileSystemKind.Fat16 or FileSystemKind.Fat32))
        {
            throw new RefusedException(
                "Nothing was written.",
                $"UEFI firmware reads FAT, and {system} holds "
                    + $"{(system.Kind == FileSystemKind.Unknown ? "no known file system" : FileSystemProbe.Name(system.Kind))}.",
                machine.Firmware == FirmwareKind.Uefi
                    ? "Where it is an EFI system partition, add --new-file-system."
                    : "Leave --for out: this disk is laid out for BIOS.");
        }

        if (!kind.IsUefi && KeelBootCode.For(system.Kind, LoaderKind.BootManager) is null)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"keel's boot code starts from NTFS and FAT32, and {system} holds "
                    + $"{(system.Kind == FileSystemKind.Unknown ? "no known file system" : FileSystemProbe.Name(system.Kind))}.",
                "Name another volume with --volume.");
        }
    }
}

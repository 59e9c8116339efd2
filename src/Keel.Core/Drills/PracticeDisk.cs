using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Firmware;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Volumes.Fat;

namespace Keel.Core.Drills;

/// <summary>Makes practice disks: a small machine of Brackwater Ferries, sound, and then with a fault.</summary>
public static class PracticeDisk
{
    /// <summary>
    /// Makes an image with this fault, for UEFI with a folder of firmware variables beside it. Neither may exist yet; where
    /// anything fails, none is left.
    /// </summary>
    public static void Make(string path, PracticeSpec spec, Fault fault)
    {
        var folder = PracticeVariables.FolderFor(path);
        var needsVariables = fault.NeedsVariables || spec.Firmware == FirmwareKind.Uefi;
        var clone = CloneFor(path);
        var keyFile = spec.Encrypted is not null || fault.IsEncrypted ? KeyFileFor(path) : null;
        string?[] made = [path, needsVariables ? folder : null, fault.WithClone ? clone : null, keyFile, MediumOf(fault, path)];
        foreach (var there in made)
        {
            if (there is not null && (File.Exists(there) || Directory.Exists(there)))
            {
                throw new WrongUsageException(
                    $"{there} is already there.",
                    "A practice disk never replaces anything.",
                    "Name another file with --out.");
            }
        }

        if (spec is { Firmware: FirmwareKind.Bios, SectorBytes: not 512 })
        {
            throw new WrongUsageException(
                "There is no such practice disk.",
                "What starts through BIOS reads sectors of 512 bytes.",
                "Make it for UEFI: --firmware uefi");
        }

        try
        {
            if (needsVariables) Directory.CreateDirectory(folder);
            var layout = PracticeLayout.For(spec.Firmware);
            using (var file = HostFile.CreateNew(path)) file.SetLength(layout.DiskBytes);
            using (var image = DiskFile.OpenForWriting(path, spec.SectorBytes)) Format(image, spec, layout);
            var variables = needsVariables ? folder : null;
            Furnish(path, variables, spec, layout, fault);
            if (fault.WithClone) File.Copy(path, clone);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            Remove(path, needsVariables ? folder : null, MediumOf(fault, path));
            throw new UnreadableException(
                $"{path} can't be made.",
                $"The system says: {e.Message}",
                "Name a file in a folder that can be written, with room for the image.",
                e);
        }
        catch
        {
            Remove(path, needsVariables ? folder : null, MediumOf(fault, path));
            throw;
        }
    }

    private static string? MediumOf(Fault fault, string path) => fault.WithMedium ? PracticeMedium.FolderFor(path) : null;

    /// <summary>Puts Windows, boot files, memories and the fault on a formatted disk.</summary>
    private static void Furnish(string path, string? variables, PracticeSpec spec, PracticeLayout layout, Fault fault)
    {
        PracticeMethod? method = spec.Encrypted ?? (fault.IsEncrypted ? PracticeMethod.Xts128 : null);
        var encryption = new PracticeEncryption(layout.WindowsNumber, layout.Windows);
        Action<Machine>[] changes =
        [
            .. fault.IsNt5 ? [machine => PracticeNt5.Write(machine, spec, layout)]
                : fault.IsInside
                ? (Action<Machine>[])
                [
                    machine => PracticeInside.Write(machine, spec, layout, path),
                    machine => FillSystem(machine, spec, layout)
                ]
                : [machine => Fill(machine, spec, layout)],
            .. fault.IsNt5
                ? Array.Empty<Action<Machine>>()
                : [machine => PracticeMemory.Write(machine.Installations[0].Volume, spec, fault.Remembered)],
            .. spec.PackedBy is { } packing && !fault.IsNt5
                ? [machine => PracticePacking.Pack(machine, packing)]
                : Array.Empty<Action<Machine>>(),
            .. MediumOf(fault, path) is { } medium
                ? [machine => PracticeMedium.Write(medium, machine, spec)]
                : Array.Empty<Action<Machine>>(),
            .. method is null ? Array.Empty<Action<Machine>>() : [encryption.Prepare],
            .. fault.Stages
        ];
        foreach (var change in changes) Change(path, variables, change, spec.SectorBytes);
        if (method is not { } wanted) return;
        Change(path, variables, machine => encryption.Encrypt(machine, spec, wanted, fault.IsSuspended), spec.SectorBytes);
        if (fault.BehindLock is { } behind) Change(path, variables, behind, spec.SectorBytes);
        File.WriteAllText(PracticeEncryption.KeyFileFor(path), new PracticeKeys(spec.MachineName).RecoveryDigits + "\n");
    }

    /// <summary>Where the recovery key of an encrypted practice disk is put.</summary>
    public static string KeyFileFor(string imagePath) => PracticeEncryption.KeyFileFor(imagePath);

    /// <summary>Where the medium of a disk is put, by a fault that needs one.</summary>
    public static string MediumFor(string imagePath) => PracticeMedium.FolderFor(imagePath);

    /// <summary>Where the copy of a disk is put, by a fault that has one.</summary>
    public static string CloneFor(string imagePath) => imagePath + ".copy";

    /// <summary>The same for a disk without firmware variables.</summary>
    internal static void Change(string path, Action<Machine> change) => Change(path, variablesFolder: null, change);

    /// <summary>Runs a change in an overlay and writes what came of it into the image, which is nobody's disk.</summary>
    internal static void Change(string path, string? variablesFolder, Action<Machine> change, int? sectorBytes = null)
    {
        var changed = new List<(long Start, byte[] Bytes)>();
        using (var machine = Machine.Open(
            [path],
            variablesFolder is null ? null : FirmwareVariables.Open(variablesFolder),
            startsThrough: null,
            sectorBytes))
        {
            change(machine);
            var changes = OutermostChanges.Changes(machine)[0].Changes;
            foreach (var range in changes.Ranges)
            {
                var bytes = new byte[range.Length];
                changes.CopyAfter(range, bytes);
                changed.Add((range.Start, bytes));
            }

            foreach (var file in machine.Variables?.Changes() ?? []) VariableFile.Write(variablesFolder!, file.Name, file.After);
        }

        using var image = DiskFile.OpenForWriting(path);
        foreach (var (start, bytes) in changed) image.Write(start, bytes);
    }

    private static void Remove(string path, params string?[] folders)
    {
        if (File.Exists(path)) File.Delete(path);
        foreach (var folder in folders)
        {
            if (folder is not null && Directory.Exists(folder)) Directory.Delete(folder, recursive: true);
        }
    }

    private static void Format(DiskFile image, PracticeSpec spec, PracticeLayout layout)
    {
        if (spec.Firmware == FirmwareKind.Uefi)
        {
            PracticeGpt.Write(image, layout);
            FatFormat.Format(
                new Slice(image, layout.System),
                "SYSTEM",
                spec.DiskSignature,
                (uint)(layout.System.Start / image.SectorBytes));
            Formatter.Ntfs(image, layout.Recovery!.Value, "Recovery", 4096, image.SectorBytes);
        }
        else
        {
            WriteTable(image, spec, layout);
            Formatter.Ntfs(image, layout.System, "System", spec.SystemClusterBytes, image.SectorBytes);
        }

        Formatter.Ntfs(image, layout.Windows, "Brackwater OS", 4096, image.SectorBytes);
    }

    private static void WriteTable(DiskFile image, PracticeSpec spec, PracticeLayout layout)
    {
        var record = new MasterBootRecord(new byte[MasterBootRecord.Size]) { Signature = spec.DiskSignature, HasMark = true };
        record.SetCode(KeelBootCode.Mbr());
        record.SetSlot(0, Slot(layout.System, image.SectorBytes, active: true));
        record.SetSlot(1, Slot(layout.Windows, image.SectorBytes, active: false));
        image.Write(0, record.ToBytes());
    }

    private static PartitionSlot Slot(ByteRange range, int sectorBytes, bool active) =>
        new(
            active ? PartitionSlot.ActiveMark : (byte)0,
            PartitionTypes.Ntfs,
            (uint)(range.Start / sectorBytes),
            (uint)(range.Length / sectorBytes));

    private static void Fill(Machine machine, PracticeSpec spec, PracticeLayout layout)
    {
        var volumes = machine.StartDisk.Volumes;
        PracticeFiles.WriteWindows(volumes.First(volume => volume.Number == layout.WindowsNumber), spec, volumes);
        FillSystem(machine, spec, layout);
    }

    private static void FillSystem(Machine machine, PracticeSpec spec, PracticeLayout layout)
    {
        if (machine.Installations is [{ Volume: { InFile: null } windows }])
        {
            var holder = machine.Volumes.FirstOrDefault(volume => volume.Partition.Range == layout.Recovery) ?? windows;
            PracticeRecovery.Write(holder, windows);
        }

        PracticeFiles.WriteBootFiles(
            machine,
            machine.Volumes.First(volume => volume.Number == PracticeLayout.SystemNumber),
            spec);
        if (machine.Variables is not null && spec.Firmware == FirmwareKind.Uefi) PracticeVariables.Fill(machine);
    }
}

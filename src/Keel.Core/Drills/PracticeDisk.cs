using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Store;
using Keel.Core.Volumes;
using BootFiles = Keel.Core.Store.BootFiles;
using Subsystem = System.Reflection.PortableExecutable.Subsystem;

namespace Keel.Core.Drills;

/// <summary>Makes practice disks: a small BIOS machine of Brackwater Ferries, sound, and then with a fault.</summary>
public static class PracticeDisk
{
    private const long MiB = 1024 * 1024;
    private const int SystemNumber = 1, WindowsNumber = 2;
    private static readonly ByteRange SystemRange = new(MiB, 64 * MiB), WindowsRange = new(65 * MiB, 256 * MiB);
    private const long DiskBytes = 322 * MiB;

    /// <summary>Makes an image with this fault. The file must not exist yet; where anything fails, none is left.</summary>
    public static void Make(string path, PracticeSpec spec, Fault fault)
    {
        if (File.Exists(path) || Directory.Exists(path))
            throw new WrongUsageException($"{path} is already there.", "A practice disk never replaces anything.", "Name another file with --out.");
        try
        {
            using (var file = File.Create(path)) file.SetLength(DiskBytes);
            using (var image = DiskFile.Open(path, forWriting: true)) Format(image, spec, fault.OnGpt);
            Change(path, machine => Fill(machine, spec, fault.OnGpt));
            Change(path, fault.Apply);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            File.Delete(path);
            throw new UnreadableException($"{path} can't be made.", $"The system says: {e.Message}", "Name a file in a folder that can be written, with room for the image.", e);
        }
        catch
        {
            File.Delete(path);
            throw;
        }
    }

    /// <summary>Runs a change in an overlay and writes what came of it into the image, which is nobody's disk.</summary>
    internal static void Change(string path, Action<Machine> change)
    {
        var changed = new List<(long Start, byte[] Bytes)>();
        using (var machine = Machine.Open(path))
        {
            change(machine);
            var overlay = machine.StartDisk.Overlay;
            changed.AddRange(overlay.Changes().Select(range => (range.Start, overlay.ReadBytes(range.Start, (int)range.Length))));
        }

        using var image = DiskFile.Open(path, forWriting: true);
        foreach (var (start, bytes) in changed) image.Write(start, bytes);
    }

    private static void Format(DiskFile image, PracticeSpec spec, bool onGpt)
    {
        if (onGpt)
        {
            PracticeGpt.Write(image, SystemRange, WindowsRange);
            Formatter.Fat32(image, SystemRange, "SYSTEM");
        }
        else
        {
            WriteTable(image, spec);
            Formatter.Ntfs(image, SystemRange, "System", spec.SystemClusterBytes);
        }

        Formatter.Ntfs(image, WindowsRange, "Brackwater OS", 4096);
    }

    private static void WriteTable(DiskFile image, PracticeSpec spec)
    {
        var record = new MasterBootRecord(new byte[MasterBootRecord.Size]) { Signature = spec.DiskSignature, HasMark = true };
        record.SetCode(KeelBootCode.Mbr());
        record.SetSlot(0, Slot(SystemRange, image.SectorBytes, active: true));
        record.SetSlot(1, Slot(WindowsRange, image.SectorBytes, active: false));
        image.Write(0, record.ToBytes());
    }

    private static PartitionSlot Slot(ByteRange range, int sectorBytes, bool active) =>
        new(active ? PartitionSlot.ActiveMark : (byte)0, PartitionTypes.Ntfs, (uint)(range.Start / sectorBytes), (uint)(range.Length / sectorBytes));

    private static void Fill(Machine machine, PracticeSpec spec, bool onGpt)
    {
        var windows = machine.Volumes.First(volume => volume.Number == WindowsNumber);
        var version = $"10.0.{spec.Build}.1";
        WriteWindows(windows, spec, version, machine.StartDisk.Volumes);
        if (onGpt) return;                                       // files of an EFI system partition are not written yet
        var system = machine.Volumes.First(volume => volume.Number == SystemNumber);
        var ids = new Random(42);
        Guid NewId()
        {
            var bytes = new byte[16];
            ids.NextBytes(bytes);
            return new Guid(bytes);
        }

        var store = FreshStore.Build(system, BootFiles.Bios, [new WindowsToList(windows, @"\Windows", spec.Product, spec.Build)], "en-US", spec.Made, NewId);
        BootSectorEditor.WriteCode(system, KeelBootCode.Ntfs(LoaderKind.BootManager));
        system.Edit(files =>
        {
            files.WriteFile(@"\bootmgr", StandInManager.MakeBios(version));
            files.SetMarks(@"\bootmgr", FileMarks.ReadOnly | FileMarks.Hidden | FileMarks.System | FileMarks.Archive);
            files.CreateFolder(@"\Boot");
            files.SetMarks(@"\Boot", FileMarks.Hidden | FileMarks.System);
            files.WriteFile(@"\Boot\memtest.exe", StandInProgram.Make("memtest.exe", version, Subsystem.WindowsBootApplication));
            files.WriteFile(@"\Boot\BCD", store.ToBytes());
            files.SetMarks(@"\Boot\BCD", FileMarks.Archive);
        });
    }

    private static void WriteWindows(DiskVolume windows, PracticeSpec spec, string version, IReadOnlyList<DiskVolume> volumes) => windows.Edit(files =>
    {
        const string system32 = @"\Windows\System32";
        foreach (var folder in (string[])[$@"{system32}\config", $@"{system32}\drivers", @"\Windows\Boot\PCAT", @"\Users\purser\Documents\Timetables"]) files.CreateFolder(folder);
        foreach (var name in (string[])["winload.exe", "winresume.exe", "winload.efi", "winresume.efi"])
            files.WriteFile($@"{system32}\{name}", StandInProgram.Make(name, version, Subsystem.WindowsBootApplication));
        foreach (var name in (string[])["ntoskrnl.exe", "hal.dll", "kdcom.dll", "ci.dll"]) files.WriteFile($@"{system32}\{name}", StandInProgram.Make(name, version, Subsystem.Native));
        foreach (var (name, _, _) in PracticeHives.Drivers) files.WriteFile($@"{system32}\drivers\{name}.sys", StandInProgram.Make($"{name}.sys", version, Subsystem.Native, bodyBytes: 4_000));
        files.WriteFile($@"{system32}\config\SYSTEM", PracticeHives.System(spec, volumes));
        files.WriteFile($@"{system32}\config\SOFTWARE", PracticeHives.Software(spec));
        foreach (var name in (string[])["DEFAULT", "SAM", "SECURITY"]) files.WriteFile($@"{system32}\config\{name}", PracticeHives.Plain(spec, name));
        files.WriteFile(@"\Windows\Boot\PCAT\bootmgr", StandInManager.MakeBios(version));
        files.WriteFile(@"\Windows\Boot\PCAT\memtest.exe", StandInProgram.Make("memtest.exe", version, Subsystem.WindowsBootApplication));
        files.WriteFile(@"\Users\purser\Documents\Timetables\summer.txt", "07:15 Brackwater - North Quay\r\n08:40 North Quay - Brackwater\r\n"u8);
    });
}

using System.Reflection.PortableExecutable;
using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using BootFiles = Keel.Core.Store.BootFiles;

namespace Keel.Core.Drills;

/// <summary>The files of a practice disk: a small Windows of stand-ins, and the boot files that come from it.</summary>
internal static class PracticeFiles
{
    private const string System32 = @"\Windows\System32";
    private const string Catalogs = $@"{System32}\CatRoot\{{F750E6C3-38EE-11D1-85E5-00C04FC295EE}}";
    private const string PracticeCatalogName = "Boot-Environment-of-the-Line.cat";
    private static readonly string[] Kernel = ["ntoskrnl.exe", "hal.dll", "kdcom.dll", "ci.dll"];

    /// <summary>What is run between the kernel and the desktop, and at the desktop, below the folder of Windows.</summary>
    internal static readonly string[] AfterTheKernel =
        ["explorer.exe", @"System32\userinit.exe", @"System32\autochk.exe", "tideclock.exe"];

    private static readonly string[] Languages = ["en-US", "de-DE"];

    public static void WriteWindows(DiskVolume windows, PracticeSpec spec, IReadOnlyList<DiskVolume> volumes) =>
        windows.Edit(files =>
    {
        var version = VersionOf(spec);
        foreach (var folder in (string[])[$@"{System32}\config", $@"{System32}\drivers", @"\Users\purser\Documents\Timetables"])
            files.CreateFolder(folder);
        foreach (var name in (string[])["winload.exe", "winresume.exe", "winload.efi", "winresume.efi"])
        {
            WriteTwice(
                files,
                $@"{System32}\{name}",
                $@"{System32}\Boot\{name}",
                StandInProgram.Make(name, version, Subsystem.WindowsBootApplication));
        }

        foreach (var name in Kernel)
        {
            WriteTwice(
                files,
                $@"{System32}\{name}",
                $@"\Windows\WinSxS\amd64_kernel-of-the-line_{version}\{name}",
                StandInProgram.Make(name, version, Subsystem.Native, imports: name == Kernel[0] ? Kernel[1..] : []));
        }

        foreach (var (name, _, _) in PracticeHives.Drivers)
            WriteTwice(
                files,
                $@"{System32}\drivers\{name}.sys",
                $@"{System32}\DriverStore\FileRepository\{name}.inf_amd64_b4ac0042\{name}.sys",
                StandInProgram.Make($"{name}.sys", version, Subsystem.Native, bodyBytes: 4_000));
        IReadOnlyList<DiskVolume> lettered = [
            windows,
            .. volumes.Where(volume => volume != windows && volume.Scheme == Layout.PartitionScheme.Mbr)
        ];
        files.WriteFile($@"{System32}\config\SYSTEM", PracticeHives.System(spec, lettered));
        files.CreateFolder($@"{System32}\config\RegBack");
        files.WriteFile(
            $@"{System32}\config\RegBack\SYSTEM",
            PracticeHives.System(spec with { Made = spec.Made.AddDays(-9) }, lettered));
        files.WriteFile($@"{System32}\config\SOFTWARE", PracticeHives.Software(spec));
        foreach (var name in (string[])["DEFAULT", "SAM", "SECURITY"])
            files.WriteFile($@"{System32}\config\{name}", PracticeHives.Plain(spec, name));
        files.WriteFile(@"\Users\purser\NTUSER.DAT", PracticeHives.User(spec, @"C:\Windows"));
        foreach (var name in AfterTheKernel)
        {
            files.WriteFile(
                $@"\Windows\{name}",
                StandInProgram.Make(VolumeExtensions.NameOf(name), version, Subsystem.WindowsGui, bodyBytes: 4_000));
        }

        WriteCopies(files, version, spec.Made);
        files.WriteFile(
            @"\Users\purser\Documents\Timetables\summer.txt",
            "07:15 Brackwater - North Quay\r\n08:40 North Quay - Brackwater\r\n"u8);
    });

    /// <summary>Writes a file, and a spare copy of it where Windows keeps such.</summary>
    private static void WriteTwice(IVolume files, string path, string spare, byte[] bytes)
    {
        files.WriteFile(path, bytes);
        files.CreateFolder(VolumeExtensions.FolderOf(spare));
        files.WriteFile(spare, bytes);
    }

    /// <summary>
    /// Boot files of the machine's kind, copied from the installation, with their usual attributes; and a store.
    /// </summary>
    public static void WriteBootFiles(Machines.Machine machine, DiskVolume system, PracticeSpec spec)
    {
        var source = BootFileSource.Of(machine.Installations[0]);
        var contents = source
            .FilesFor(machine.BootFiles, machine.Processor)
            .Select(copy => (copy.Target, Bytes: source.Read(copy)))
            .ToList();
        var ids = new Random(42);
        Guid NewId()
        {
            var bytes = new byte[16];
            ids.NextBytes(bytes);
            return new Guid(bytes);
        }

        var store = FreshStore.Build(
            system,
            machine.BootFiles,
            [ToList(machine, spec)],
            "en-US",
            spec.Made,
            NewId);
        var storePath = machine.BootFiles.StorePath;
        if (machine.Firmware == FirmwareKind.Bios) BootSectorEditor.WriteCode(system, KeelBootCode.Ntfs(LoaderKind.BootManager));
        system.Edit(files =>
        {
            foreach (var (target, bytes) in contents.Append((storePath, store.ToBytes())))
            {
                files.CreateFolder(VolumeExtensions.FolderOf(target));
                files.WriteFile(target, bytes);
                files.SetMarks(target, UsualMarks.Of(target));
            }

            if (!BootFiles.Bios.StoreFolder.Equals(VolumeExtensions.FolderOf(storePath), StringComparison.Ordinal)) return;
            files.SetMarks(BootFiles.Bios.StoreFolder, UsualMarks.Of(BootFiles.Bios.StoreFolder, isFolder: true));
        });
    }

    private static WindowsToList ToList(Machines.Machine machine, PracticeSpec spec)
    {
        var windows = machine.Installations[0];
        return new WindowsToList(machine.DeviceOf(windows.Volume), @"\Windows", spec.Product, spec.Build)
        {
            Recovery = RecoveryPlaces.ToList(machine, windows)
        };
    }

    private static void WriteCopies(IVolume files, string version, DateTimeOffset made)
    {
        var copies = new List<(string Path, byte[] Bytes)>
        {
            (@"PCAT\bootmgr", StandInManager.MakeBios(version)),
            (@"PCAT\bootnxt", [1]),
            (@"PCAT\memtest.exe", StandInProgram.Make("memtest.exe", version, Subsystem.WindowsBootApplication)),
            (@"EFI\bootmgfw.efi", StandInManager.MakeEfi("bootmgfw.efi", version)),
            (@"EFI\bootmgr.efi", StandInManager.MakeEfi("bootmgr.efi", version)),
            (@"EFI\memtest.efi", StandInProgram.Make("memtest.efi", version, Subsystem.WindowsBootApplication)),
            (@"Fonts\wgl4_boot.ttf", StandInProgram.Make("wgl4_boot.ttf", version, Subsystem.Unknown)),
            (@"Resources\bootres.dll", StandInProgram.Make("bootres.dll", version, Subsystem.Native))
        };
        foreach (var language in Languages)
        {
            copies.Add(
                (
                    $@"PCAT\{language}\bootmgr.exe.mui",
                    StandInProgram.Make($"{language} bootmgr", version, Subsystem.Native, bodyBytes: 3000)));
            copies.Add(
                (
                    $@"EFI\{language}\bootmgfw.efi.mui",
                    StandInProgram.Make($"{language} bootmgfw", version, Subsystem.Native, bodyBytes: 3000)));
        }

        foreach (var (path, bytes) in copies)
        {
            files.CreateFolder($@"\Windows\Boot\{VolumeExtensions.FolderOf(path)}");
            files.WriteFile($@"\Windows\Boot\{path}", bytes);
        }

        files.CreateFolder(Catalogs);
        files.WriteFile($@"{Catalogs}\{PracticeCatalogName}", PracticeCatalog.Of(copies.Select(copy => copy.Bytes), made));
    }

    private static string VersionOf(PracticeSpec spec) => $"10.0.{spec.Build}.1";
}

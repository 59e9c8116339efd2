using System.Reflection.PortableExecutable;
using System.Security.Cryptography;
using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Machines;
using Keel.Core.Programs;
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
    private const string SystemCatalogName = "Windows-of-the-Line.cat";
    private static readonly string[] Kernel = ["ntoskrnl.exe", "hal.dll", "kdcom.dll", "ci.dll"];

    /// <summary>What is run between the kernel and the desktop, and at the desktop, below the folder of Windows.</summary>
    internal static readonly string[] AfterTheKernel =
        ["explorer.exe", @"System32\userinit.exe", @"System32\LogonUI.exe", @"System32\autochk.exe", "tideclock.exe"];

    /// <summary>The session's programs and libraries, in System32.</summary>
    private static readonly string[] Session =
    [
        "smss.exe", "csrss.exe", "wininit.exe", "winlogon.exe", "services.exe", "lsass.exe", "svchost.exe",
        "ntdll.dll", "kernel32.dll", "KernelBase.dll", "user32.dll", "gdi32.dll", "advapi32.dll", "rpcrt4.dll", "sechost.dll",
        "apisetschema.dll", "csrsrv.dll", "basesrv.dll", "winsrv.dll", "win32k.sys"
    ];

    private static readonly string[] LetterTables = ["l_intl.nls", "C_1252.NLS", "locale.nls"];

    /// <summary>What drivers name: storport.sys and the like.</summary>
    private static readonly string[] DriverLibraries = ["storport.sys", "CLASSPNP.SYS"];

    private static readonly string[] Languages = ["en-US", "de-DE"];

    public static void WriteWindows(DiskVolume windows, PracticeSpec spec, IReadOnlyList<DiskVolume> volumes) =>
        windows.Edit(files =>
    {
        var version = VersionOf(spec);
        foreach (var folder in (string[])[$@"{System32}\config", $@"{System32}\drivers", @"\Users\purser\Documents\Timetables"])
            files.CreateFolder(folder);
        foreach (var name in (string[])["winload.exe", "winresume.exe", "winload.efi", "winresume.efi"])
        {
            files.CreateFolder($@"{System32}\Boot");
            foreach (var folder in (string[])[System32, $@"{System32}\Boot"])
                files.WriteFile($@"{folder}\{name}", StandInProgram.Make(name, version, Subsystem.WindowsBootApplication));
        }

        foreach (var name in Kernel)
        {
            WriteTwice(
                files,
                $@"{System32}\{name}",
                Component("kernel", version, name),
                StandInProgram.Make(name, version, Subsystem.Native, imports: name == Kernel[0] ? Kernel[1..] : []));
        }

        WriteDrivers(files, version);
        WriteSession(files, version);
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
        {
            files.WriteFile($@"{System32}\config\{name}", PracticeHives.Plain(spec, name));
            files.WriteFile(
                $@"{System32}\config\RegBack\{name}",
                PracticeHives.Plain(spec with { Made = spec.Made.AddDays(-9) }, name));
        }

        files.WriteFile(@"\Users\purser\NTUSER.DAT", PracticeHives.User(spec, @"C:\Windows"));
        foreach (var name in AfterTheKernel)
        {
            var file = VolumeExtensions.NameOf(name);
            WriteTwice(
                files,
                $@"\Windows\{name}",
                Component("sign-in", version, file),
                StandInProgram.Make(file, version, Subsystem.WindowsGui, bodyBytes: 4_000));
        }

        WriteCopies(files, version, spec.Made);
        files.WriteFile($@"{System32}\config\BCD-Template", PracticeTemplate.Of(windows, spec));
        WriteSystemCatalog(files, spec.Made);
        files.WriteFile(
            @"\Users\purser\Documents\Timetables\summer.txt",
            "07:15 Brackwater - North Quay\r\n08:40 North Quay - Brackwater\r\n"u8);
    });

    /// <summary>A catalog of every program of the system, as Authenticode takes it, and of what else its folders have.</summary>
    private static void WriteSystemCatalog(IVolume files, DateTimeOffset made)
    {
        var digests = new List<byte[]>();
        foreach (var folder in (string[])[@"\Windows", System32, $@"{System32}\drivers", $@"{System32}\Boot"])
        {
            foreach (var file in files.List(folder).Where(file => !file.IsFolder))
            {
                var bytes = files.ReadFile($@"{folder}\{file.Name}");
                digests.Add(ProgramContent.DigestOf(new MemoryBlocks(bytes), HashAlgorithmName.SHA256) ?? SHA256.HashData(bytes));
            }
        }

        files.WriteFile($@"{Catalogs}\{SystemCatalogName}", PracticeCatalog.OfDigests(digests, made));
    }

    private static string PackageOf(string driver) => $"{driver}.inf_amd64_b4ac0042";

    private static void WriteDrivers(IVolume files, string version)
    {
        foreach (var driver in PracticeHives.Drivers)
        {
            var name = $"{driver.Name}.sys";
            WriteTwice(
                files,
                $@"{System32}\drivers\{name}",
                $@"{System32}\DriverStore\FileRepository\{PackageOf(driver.Name)}\{name}",
                StandInProgram.Make(
                    name,
                    version,
                    Subsystem.Native,
                    bodyBytes: 4_000,
                    imports: driver.Imports.Length > 0 ? ["ntoskrnl.exe", .. driver.Imports] : []));
        }

        foreach (var name in DriverLibraries)
        {
            WriteTwice(
                files,
                $@"{System32}\drivers\{name}",
                Component("drivers", version, name),
                StandInProgram.Make(name, version, Subsystem.Native, bodyBytes: 4_000));
        }

        files.CreateFolder(@"\Windows\ELAMBKUP");
        files.WriteFile(@"\Windows\ELAMBKUP\WdBoot.sys", files.ReadFile($@"{System32}\drivers\WdBoot.sys"));
    }

    private static void WriteSession(IVolume files, string version)
    {
        foreach (var name in Session)
        {
            WriteTwice(
                files,
                $@"{System32}\{name}",
                Component("session", version, name),
                StandInProgram.Make(name, version, Subsystem.Native, bodyBytes: 2_000));
        }

        foreach (var name in LetterTables) files.WriteFile($@"{System32}\{name}", "letters of the line, a table\r\n"u8);

        // What a component keeps of its older versions is no file that could be taken: differences, under the files' own names.
        var older = Component("session", version, "r\\ntdll.dll");
        files.CreateFolder(VolumeExtensions.FolderOf(older));
        files.WriteFile(older, [0xB4, 0xAC, 0, 0x42, .. "PA30"u8, .. new byte[600]]);
    }

    /// <summary>The place of a file in the component store.</summary>
    private static string Component(string name, string version, string file) =>
        $@"\Windows\WinSxS\amd64_{name}-of-the-line_31bf3856ad364e35_{version}_none_b4ac0042b4ac0042\{file}";

    /// <summary>
    /// Writes a file, and gives it its second name where Windows keeps such: that is the same file, and no copy.
    /// </summary>
    private static void WriteTwice(IVolume files, string path, string second, byte[] bytes)
    {
        files.WriteFile(path, bytes);
        files.CreateFolder(VolumeExtensions.FolderOf(second));
        if (files is Volumes.Ntfs.NtfsVolume ntfs) ntfs.Link(path, second);
        else files.WriteFile(second, bytes);
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

    private static string VersionOf(PracticeSpec spec) => $"10.0.{spec.Build}.{PracticeHives.Revision}";
}

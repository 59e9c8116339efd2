using System.Reflection.PortableExecutable;
using System.Text;
using Keel.Core.BootCode;
using Keel.Core.Chain.Checks;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Machine = Keel.Core.Machines.Machine;

namespace Keel.Core.Drills;

/// <summary>A practice machine of NT 5: its loader, its list of systems, and a small Windows of stand-ins.</summary>
internal static class PracticeNt5
{
    /// <summary>The folder of its Windows.</summary>
    public const string Folder = @"\WINDOWS";

    /// <summary>Where service packs leave their files.</summary>
    public const string Copies = $@"{Folder}\ServicePackFiles\i386";

    /// <summary>The restore point that the machine has.</summary>
    public const string RestorePoint =
        @"\System Volume Information\_restore{B4AC0042-0000-4000-8000-00000000A5CE}\RP7\snapshot";

    private const string System32 = $@"{Folder}\system32", Product = "Microsoft Windows XP";
    private const int Build = 2600, LoaderBodyBytes = 200_000, DetectBytes = 47_564;
    private static readonly string[] Kernel = ["ntoskrnl.exe", "hal.dll", "bootvid.dll", "kdcom.dll"];

    /// <summary>The list of the machine, with a switch and a title that are its own.</summary>
    public static byte[] List { get; } = Encoding.ASCII.GetBytes(string.Join(
        "\r\n",
        "[boot loader]",
        "timeout=5",
        @"default=multi(0)disk(0)rdisk(0)partition(2)\WINDOWS",
        "[operating systems]",
        @"multi(0)disk(0)rdisk(0)partition(2)\WINDOWS=""Brackwater till"" /noexecute=optin /fastdetect /SOS",
        ""));

    /// <summary>Puts all of it on a formatted disk.</summary>
    /// <param name="machine">The machine.</param>
    /// <param name="spec">What it is to be like.</param>
    /// <param name="layout">Where its volumes lie.</param>
    public static void Write(Machine machine, PracticeSpec spec, PracticeLayout layout)
    {
        var volumes = machine.StartDisk.Volumes;
        var system = volumes.First(volume => volume.Number == PracticeLayout.SystemNumber);
        var windows = volumes.First(volume => volume.Number == layout.WindowsNumber);
        Write(spec, system, windows);
    }

    /// <summary>The same on volumes of any file system.</summary>
    internal static void Write(PracticeSpec spec, DiskVolume system, DiskVolume windows)
    {
        BootSectorEditor.WriteCode(system, KeelBootCode.For(system.Kind, LoaderKind.Nt5Loader)!);
        system.Edit(files =>
        {
            WriteMarked(files, Nt5LoaderCheck.Path, Loader());
            WriteMarked(files, DetectFileCheck.Path, Detect());
            WriteMarked(files, BootListState.Path, List);
        });
        windows.Edit(files => WriteWindows(files, spec, [windows, system]));
    }

    private static void WriteMarked(IVolume files, string path, byte[] bytes)
    {
        files.WriteFile(path, bytes);
        files.SetMarks(path, UsualMarks.Of(path));
    }

    private static void WriteWindows(IVolume files, PracticeSpec spec, IReadOnlyList<DiskVolume> lettered)
    {
        string[] folders = [$@"{System32}\config", $@"{System32}\drivers", Copies, $@"{Folder}\repair", RestorePoint];
        foreach (var folder in folders)
            files.CreateFolder(folder);
        foreach (var name in Kernel)
        {
            var program = Program(name, name == Kernel[0] ? Kernel[1..] : []);
            files.WriteFile($@"{System32}\{name}", program);
            files.WriteFile($@"{Copies}\{name}", program);
        }

        foreach (var name in PracticeHives.Nt5Drivers.Select(driver => driver.Name))
        {
            var driver = Program($"{name}.sys", []);
            files.WriteFile($@"{System32}\drivers\{name}.sys", driver);
            files.WriteFile($@"{Copies}\{name}.sys", driver);
        }

        foreach (var name in PracticeFiles.AfterTheKernel)
            files.WriteFile($@"{Folder}\{name}", Program(VolumeExtensions.NameOf(name), []));
        files.WriteFile($@"{Copies}\ntldr", Loader());
        files.WriteFile($@"{Copies}\NTDETECT.COM", Detect());
        WriteHives(files, spec, lettered);
    }

    private static void WriteHives(IVolume files, PracticeSpec spec, IReadOnlyList<DiskVolume> lettered)
    {
        byte[] System(int daysBefore) =>
            PracticeHives.System(spec with { Made = spec.Made.AddDays(-daysBefore) }, lettered, PracticeHives.Nt5Drivers);
        files.WriteFile($@"{System32}\config\system", System(0));
        files.WriteFile($@"{RestorePoint}\_REGISTRY_MACHINE_SYSTEM", System(3));
        files.WriteFile($@"{Folder}\repair\system", System(900));
        files.WriteFile($@"{System32}\config\software", Software(spec));
        foreach (var name in (string[])["default", "SAM", "SECURITY"])
            files.WriteFile($@"{System32}\config\{name}", PracticeHives.Plain(spec, name));
    }

    private static byte[] Software(PracticeSpec spec)
    {
        var root = new HiveNode("$$$PROTO.HIV") { LastWritten = spec.Made.ToFileTime() };
        root.ChildOrNew("Microsoft").ChildOrNew("Windows NT").ChildOrNew("CurrentVersion")
            .Set(HiveValue.OfText("ProductName", Product))
            .Set(HiveValue.OfText("CurrentVersion", "5.1"))
            .Set(HiveValue.OfText("CurrentBuildNumber", $"{Build}"))
            .Set(HiveValue.OfText("CSDVersion", "Service Pack 3"))
            .Set(HiveValue.OfText("SystemRoot", @"C:\WINDOWS"))
            .Set(HiveValue.OfText("RegisteredOrganization", "Brackwater Ferries"));
        PracticeHives.WriteLogon(root, @"C:\WINDOWS");
        return HiveWriter.Write(root, PracticeHives.HiveMinorVersion);
    }

    private static byte[] Program(string name, string[] imports) =>
        StandInProgram.Make(
            name,
            $"5.1.{Build}.5512",
            Subsystem.Native,
            System.Reflection.PortableExecutable.Machine.I386,
            imports: imports);

    /// <summary>Code that checks what boot code promises it, with a program packed behind it.</summary>
    internal static byte[] Loader() => StandInManager.MakeBios($"5.1.{Build}.5512", LoaderBodyBytes);

    private static byte[] Detect()
    {
        const byte nearJump = 0xE9;
        var detect = new byte[DetectBytes];
        new Random(51).NextBytes(detect);
        detect[0] = nearJump;
        return detect;
    }
}

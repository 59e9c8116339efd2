using System.Buffers.Binary;
using System.Reflection.PortableExecutable;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Hives;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Machine = Keel.Core.Machines.Machine;

namespace Keel.Core.Drills;

/// <summary>Faults that the catalogs tell of, and drivers that came with packages of their own.</summary>
internal static class SignatureFaults
{
    private const string System32 = @"\Windows\System32", Hive = $@"{System32}\config\SYSTEM";
    private const string Packages = $@"{System32}\DriverStore\FileRepository";
    private const string Gauge = "tidegauge", Controller = "quayraid", Version = "3.1.0.12";

    public static readonly IReadOnlyList<Fault> All =
    [
        new(
            "kernel-altered-quietly",
            "BF-1198",
            "Pilot office, {0}",
            "A clever cousin patched something so that the tide program would run. 0xc0000428 since then.",
            machine => AlterQuietly(machine, $@"{System32}\ntoskrnl.exe")),
        new(
            "driver-catalog-gone",
            "BF-1199",
            "Lighthouse store, {0}",
            "Some cleaner said that it had found orphaned security catalogs. It says now that it cannot verify tidegauge.sys.",
            machine => InstallGauge(machine)),
        new(
            "controller-driver-absent",
            "BF-1200",
            "Boat shed, {0}",
            "The board died, and we put the disk into the spare machine. 0x7B. Somebody had taken out drivers that it "
                + "did not need.",
            StageController)
    ];

    private static DiskVolume Windows(Machine machine) => machine.Installations[0].Volume;

    /// <summary>A byte of the program becomes another one, and the checksum follows.</summary>
    private static void AlterQuietly(Machine machine, string path) => Windows(machine).Edit(files =>
    {
        const int checksumAt = 0xD8, changedAt = 3_000;
        var bytes = files.ReadFile(path);
        bytes[changedAt] ^= 0x40;
        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(checksumAt), StandInProgram.Checksum(bytes));
        files.Delete(path);                                     // its other name in the component store stays as it was
        files.WriteFile(path, bytes);
    });

    /// <summary>A driver of another maker starts with the loader; only its package has the catalog still.</summary>
    private static void InstallGauge(Machine machine)
    {
        var file = Program(Gauge);
        EditServices(machine, services => services.ChildOrNew(Gauge)
            .Set(HiveValue.OfNumber("Start", 0))
            .Set(HiveValue.OfNumber("Type", 1))
            .Set(HiveValue.OfNumber("ErrorControl", 3))
            .Set(HiveValue.OfText("Group", "Extended Base"))
            .Set(HiveValue.OfText("ImagePath", $@"\SystemRoot\System32\drivers\{Gauge}.sys")));
        Windows(machine).Edit(files =>
        {
            files.WriteFile($@"{System32}\drivers\{Gauge}.sys", file);
            var inf = Stage(files, Gauge, file, Inf(Gauge, "System", "{4d36e97d-e325-11ce-bfc1-08002be10318}"));
            files.CreateFolder(@"\Windows\INF");
            files.WriteFile(@"\Windows\INF\oem7.inf", inf);
        });
    }

    /// <summary>The services of all disk controllers are gone; the driver of the right one is staged only.</summary>
    private static void StageController(Machine machine)
    {
        EditServices(machine, services => services.Children.RemoveAll(service => service.Name is "storahci" or "stornvme"));
        var inf = Inf(Controller, "SCSIAdapter", "{4d36e97b-e325-11ce-bfc1-08002be10318}");
        Windows(machine).Edit(files =>
        {
            Stage(files, Controller, Program(Controller, "storport.sys"), inf);
            files.WriteFile(
                $@"{System32}\config\DRIVERS",
                PracticeHives.DeviceDatabase(DateTimeOffset.UnixEpoch.AddYears(54), [PackageOf(Controller)]));
        });
    }

    private static byte[] Program(string name, params string[] imports) => StandInProgram.Make(
        $"{name}.sys",
        Version,
        Subsystem.Native,
        bodyBytes: 4_000,
        imports: ["ntoskrnl.exe", .. imports]);

    private static string PackageOf(string name) => $"{name}.inf_amd64_b4ac0219";

    private static byte[] Stage(IVolume files, string name, byte[] driver, string inf)
    {
        var folder = $@"{Packages}\{PackageOf(name)}";
        var text = Encoding.Latin1.GetBytes(inf);
        files.CreateFolder(folder);
        files.WriteFile($@"{folder}\{name}.sys", driver);
        files.WriteFile($@"{folder}\{name}.inf", text);
        var digest = ProgramContent.DigestOf(new MemoryBlocks(driver), System.Security.Cryptography.HashAlgorithmName.SHA256)!;
        files.WriteFile($@"{folder}\{name}.cat", PracticeCatalog.OfDigests([digest], DateTimeOffset.UnixEpoch.AddYears(54)));
        return text;
    }

    private static void EditServices(Machine machine, Action<HiveNode> change)
    {
        var volume = Windows(machine);
        var root = Hives.Hive.Open(volume.Files!.ReadFile(Hive)).ReadTree();
        change(root.Child("ControlSet001")!.Child("Services")!);
        volume.Edit(files => files.WriteFile(Hive, HiveWriter.Write(root, PracticeHives.HiveMinorVersion)));
    }

    private static string Inf(string name, string deviceClass, string classId) => $"""
        ; {name}, a driver of the line
        [Version]
        Signature   = "$WINDOWS NT$"
        Class       = {deviceClass}
        ClassGuid   = {classId}
        Provider    = %Maker%
        CatalogFile = {name}.cat
        DriverVer   = 03/14/2025,{Version}

        [Manufacturer]
        %Maker% = Devices, NTamd64.10.0

        [Devices.NTamd64.10.0]
        %Device% = Install, PCI\VEN_B4AC&DEV_0042&CC_0104, PCI\VEN_B4AC&CC_0104

        [Install.NT]
        CopyFiles = Files

        [Files]
        {name}.sys

        [Install.NT.Services]
        AddService = {name}, 0x00000002, Service

        [Service]
        ServiceType    = 1
        StartType      = 0
        ErrorControl   = 3
        ServiceBinary  = %12%\{name}.sys
        LoadOrderGroup = "SCSI Miniport"
        AddReg         = Settings

        [Settings]
        HKR, "Parameters\PnpInterface", "5", 0x00010001, 1
        HKR, "Parameters", "BusType", 0x00010001, 0x00000008

        [SourceDisksNames]
        1 = %Device%

        [SourceDisksFiles]
        {name}.sys = 1

        [Strings]
        Maker  = "Brackwater Instruments"
        Device = "{name} of the line"
        """;
}

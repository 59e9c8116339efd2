using Keel.Core.Chain.Checks.Session;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Subsystem = System.Reflection.PortableExecutable.Subsystem;

namespace Keel.Core.Drills;

/// <summary>
/// Faults of a Windows that is all there and fits together badly: drivers by what they do, versions, the session.
/// </summary>
internal static class SessionFaults
{
    private const string System32 = @"\Windows\System32", Config = $@"{System32}\config";
    private const string Software = $@"{Config}\SOFTWARE", System = $@"{Config}\SYSTEM";
    private const string Volumes = "{71a27cdd-812a-11d0-bec7-08002be2092f}", Keyboards = "{4d36e96b-e325-11ce-bfc1-08002be10318}";

    public static readonly IReadOnlyList<Fault> All =
    [
        new(
            "session-file-missing",
            "BF-1166",
            "Ticket office, {0}",
            "Blue, stop code 0xc000021a, and it starts over again. The cleaner had found something it called junk.",
            machine => Edit(machine, files => files.Delete($@"{System32}\csrss.exe"))),
        new(
            "session-file-damaged",
            "BF-1167",
            "Chart room, {0}",
            "Stop 0x6b right after the ring of dots. The disk had been copied over a bad cable.",
            machine => Change(machine, $@"{System32}\ntdll.dll", bytes => bytes[1500] ^= 0x20)),
        new(
            "sign-in-file-missing",
            "BF-1168",
            "Kiosk, {0}",
            "It takes the password, and then it stays black.",
            machine => Edit(machine, files => files.Delete(@"\Windows\explorer.exe"))),
        new(
            "sign-in-file-damaged",
            "BF-1169",
            "Kiosk, {0}",
            "The picture comes, and nowhere to type a name.",
            machine => Change(machine, $@"{System32}\LogonUI.exe", bytes => bytes[2500] ^= 4)),
        new(
            "session-hive-damaged",
            "BF-1170",
            "Harbour master's desk, {0}",
            "Stop c0000218, registry file failure, and it names SECURITY.",
            machine => Change(machine, $@"{Config}\SECURITY", bytes => bytes.AsSpan(HiveHeader.Size, 600).Fill(0xEE))),
        new(
            "session-hive-missing",
            "BF-1171",
            "Apprentice's bench, {0}",
            "I wanted to get rid of a password and deleted the file with them. 0xc0000218.",
            machine => Edit(machine, files => files.Delete($@"{Config}\SAM"))),
        new(
            "debugger-on-start-program",
            "BF-1172",
            "Night purser, {0}",
            "Since the man on the telephone was on the computer it goes blue before one can sign in.",
            machine => Change(machine, Software, root => Debug(root, "winlogon.exe"))),
        new(
            "debugger-on-sign-in-program",
            "BF-1173",
            "Night purser, {0}",
            "Only a black screen with the mouse after the password, since the virus was removed.",
            machine => Change(machine, Software, root => Debug(root, "explorer.exe"))),
        new(
            "windows-letter-elsewhere",
            "BF-1174",
            "Workshop, {0}",
            "After the copy to the larger disk it prepares my desktop for ever.",
            SwapLetters),
        new(
            "setup-marked-failed",
            "BF-1175",
            "Ticket machine, {0}",
            "The computer restarted unexpectedly or encountered an unexpected error. Again and again.",
            machine => Change(machine, System, root =>
            {
                Begin(root, @"oobe\windeploy.exe");
                At(root, SetupState.PartsKey).Set(HiveValue.OfNumber(SetupState.SetupPart, SetupState.Begun));
            })),
        new(
            "setup-broken-off",
            "BF-1176",
            "Back office, {0}",
            "It was to get the new Windows, and then somebody needed the socket. Installation cannot proceed, it says.",
            machine => Change(machine, System, root =>
            {
                Begin(root, @"C:\$WINDOWS.~BT\Sources\setup.exe /update");
                root.Child("Setup")!.Children.RemoveAll(child => child.Name == "Status");
            })),
        new(
            "profile-set-aside",
            "BF-1177",
            "Purser's cabin, {0}",
            "All my things are gone, and it says that it signed me in with a temporary profile.",
            machine => Change(machine, Software, root => ProfilesOf(root)
                .ChildOrNew(PracticeHives.Person + ".bak")
                .Set(HiveValue.OfText("ProfileImagePath", @"C:\Users\purser")))),
        new(
            "windows-volume-full",
            "BF-1178",
            "Slipway office, {0}",
            "It signs me in, and then it's black. I had copied all the films of the season before.",
            FillUp),
        new(
            "class-filter-without-driver",
            "BF-1179",
            "Workshop, {0}",
            "I uninstalled the old backup program, it wanted a restart, and now: inaccessible boot device.",
            machine => Change(machine, System, root => Filter(root, Volumes, "LowerFilters", "fvevol", "tidesnap"))),
        new(
            "input-filter-without-driver",
            "BF-1180",
            "Gangway desk, {0}",
            "It starts, and at the sign-in no keyboard works, not even a new one.",
            machine => Change(machine, System, root => Filter(root, Keyboards, "UpperFilters", "kbdclass", "harbourkeys"))),
        new(
            "driver-library-missing",
            "BF-1181",
            "Chart room, {0}",
            "0x7b. All the drivers are there, I compared the folder with the other machine's, nearly.",
            machine => Edit(machine, files => files.Delete($@"{System32}\drivers\storport.sys")))
        { FindingId = "driver-missing" },
        new(
            "driver-early-missing",
            "BF-1182",
            "Ticket office, {0}",
            "The other virus scanner threw a file of this one out. 0xc000000f and WdBoot.",
            machine => Edit(machine, files =>
            {
                files.Delete($@"{System32}\drivers\WdBoot.sys");
                files.Delete($@"{System32}\DriverStore\FileRepository\WdBoot.inf_amd64_b4ac0042\WdBoot.sys");
            })) { FindingId = "driver-missing" },
        new(
            "storage-driver-overridden",
            "BF-1183",
            "Workshop, {0}",
            "We changed the controller's mode in the firmware for the new disk. Stop 7B since then.",
            machine => Change(machine, System, root =>
            {
                foreach (var name in (string[])["storahci", "stornvme"])
                    Services(root).Child(name)!.ChildOrNew("StartOverride").Set(HiveValue.OfNumber("0", 3));
            })) { FindingId = "storage-driver-disabled" },
        new(
            "start-driver-off",
            "BF-1186",
            "Back office, {0}",
            "A tuning program switched off what it called unneeded services. 0x7b.",
            machine => Change(machine, System, root => Services(root).Child("mountmgr")!.Set(HiveValue.OfNumber("Start", 4))))
        { FindingId = "start-driver-disabled" },
        new(
            "kernel-other-build",
            "BF-1184",
            "Apprentice's bench, {0}",
            "I took ntoskrnl from the newer machine, it was damaged here. 0xc0000428 now.",
            machine => Edit(machine, files => files.WriteFile(
                $@"{System32}\ntoskrnl.exe",
                StandInProgram.Make(
                    "ntoskrnl.exe",
                    "10.0.26100.1",
                    Subsystem.Native,
                    imports: ["hal.dll", "kdcom.dll", "ci.dll"])))),
        new(
            "manager-older-than-loader",
            "BF-1185",
            "Apprentice's bench, {0}",
            "I put the boot files of the old image back. It says 0xc0000428 and winload.",
            machine => machine.SystemVolume!.Edit(files => files.WriteFile(
                machine.BootFiles.ManagerPath,
                StandInManager.MakeEfi("bootmgfw.efi", "6.1.7601.24000")))) { Only = FirmwareKind.Uefi, FirmwareStartsIt = true }
    ];

    private static DiskVolume Windows(Machine machine) => machine.Installations[0].Volume;

    private static void Edit(Machine machine, Action<IVolume> change) => Windows(machine).Edit(change);

    private static void Change(Machine machine, string path, Action<byte[]> change) => Edit(machine, files =>
    {
        var bytes = files.ReadFile(path);
        change(bytes);
        files.WriteFile(path, bytes);
    });

    /// <summary>Writes a hive anew with a change.</summary>
    private static void Change(Machine machine, string path, Action<HiveNode> change) => Edit(machine, files =>
    {
        var root = Hive.Open(files.ReadFile(path)).ReadTree();
        change(root);
        files.WriteFile(path, HiveWriter.Write(root, PracticeHives.HiveMinorVersion));
    });

    private static HiveNode Services(HiveNode root) => root.Child("ControlSet001")!.Child("Services")!;

    private static HiveNode ProfilesOf(HiveNode root) => At(root, ProfileList.Key);

    private static HiveNode At(HiveNode root, string path) =>
        path.Split('\\').Aggregate(root, (key, name) => key.ChildOrNew(name));

    private static void Debug(HiveNode root, string program) => At(root, $@"{StartDebuggers.OptionsKey}\{program}")
        .Set(HiveValue.OfText(StartDebuggers.Value, @"C:\ProgramData\tidehelp\watch.exe"));

    private static void Filter(HiveNode root, string id, string list, params string[] names) =>
        At(root, $@"ControlSet001\Control\Class\{id}").Set(HiveValue.OfTextList(list, names));

    private static void Begin(HiveNode root, string command) => root.ChildOrNew("Setup")
        .Set(HiveValue.OfNumber("SystemSetupInProgress", 1))
        .Set(HiveValue.OfNumber("SetupType", 2))
        .Set(HiveValue.OfText("CmdLine", command));

    /// <summary>The letter of Windows goes to the system volume, and Windows gets D:.</summary>
    private static void SwapLetters(Machine machine)
    {
        var system = machine.SystemVolume!;
        var windows = Windows(machine);
        Change(machine, System, root => root.Child("MountedDevices")!
            .Set(HiveValue.OfBinary(@"\DosDevices\C:", PracticeHives.LetterTarget(system)))
            .Set(HiveValue.OfBinary(@"\DosDevices\D:", PracticeHives.LetterTarget(windows))));
    }

    private static void FillUp(Machine machine)
    {
        const int pieceBytes = 16 * 1024 * 1024, leftBytes = 96 * 1024, roomForRecords = 32 * 1024;
        Edit(machine, files =>
        {
            files.CreateFolder(@"\Users\purser\Videos");
            for (var number = 1; files.FreeBytes - leftBytes is var free and > roomForRecords; number++)
            {
                var length = Math.Min(pieceBytes, free - roomForRecords + 1);
                files.WriteFile($@"\Users\purser\Videos\season{number}.mp4", new byte[length]);
            }
        });
    }
}

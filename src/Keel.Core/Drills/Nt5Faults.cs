using System.Text;
using Keel.Core.BootCode;
using Keel.Core.Chain.Checks;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Drills;

/// <summary>Faults of machines of NT 5: tills and kiosks that nobody dares to replace.</summary>
internal static class Nt5Faults
{
    private const string Wrong = "partition(1)", Right = "partition(2)";

    public static readonly IReadOnlyList<Fault> All =
    [
        Of(
            "ntldr-missing",
            "BF-1141",
            "Till 3, {0}",
            "NTLDR is missing, press Ctrl+Alt+Del. Somebody cleaned drive C.",
            machine => machine.SystemVolume!.Edit(files => files.Delete(Nt5LoaderCheck.Path))),
        Of(
            "ntldr-compressed",
            "BF-1142",
            "Till 1, {0}",
            "NTLDR is compressed. The drive was full, so we let it save space.",
            machine => machine.SystemVolume!.Edit(Compress)),
        Of(
            "ntldr-damaged",
            "BF-1143",
            "Ticket machine on the quay, {0}",
            "A black screen with a dash. The flash card was copied, and the copy had stopped early.",
            machine => machine.SystemVolume!.Edit(files =>
                files.WriteFile(Nt5LoaderCheck.Path, files.ReadFile(Nt5LoaderCheck.Path).AsSpan(0, 100_000)))),
        Of("detect-missing", "BF-1144", "Till 2, {0}", "It says NTDETECT failed, and begins anew.", machine =>
            machine.SystemVolume!.Edit(files => files.Delete(DetectFileCheck.Path))),
        Of(
            "boot-list-missing",
            "BF-1145",
            "Till 3, {0}",
            "Invalid BOOT.INI file, then that hal.dll is missing or corrupt. The file hal.dll is there, I looked.",
            machine => machine.SystemVolume!.Edit(files => files.Delete(BootListState.Path))),
        Of(
            "boot-list-empty",
            "BF-1146",
            "Bar on deck 4, {0}",
            "hal.dll missing since the power cut. Before it: invalid boot.ini.",
            machine => machine.SystemVolume!.Edit(files => files.WriteFile(BootListState.Path, []))),
        Of(
            "boot-list-unreadable",
            "BF-1147",
            "Office of the harbour master, {0}",
            "I only changed the seconds in boot.ini with an editor, and saved it as it offered.",
            machine => machine.SystemVolume!.Edit(files => files.WriteFile(
                BootListState.Path,
                [.. Encoding.Unicode.Preamble, .. Encoding.Unicode.GetBytes(Encoding.ASCII.GetString(PracticeNt5.List))]))),
        Of(
            "boot-line-wrong-partition",
            "BF-1148",
            "Till 1, {0}",
            "Could not start because of a computer disk hardware configuration problem, after the disk was cloned.",
            machine => EditList(machine, text => text.Replace(Right, Wrong, StringComparison.Ordinal))),
        Of(
            "boot-line-wrong-folder",
            "BF-1149",
            "Ticket machine on the ferry, {0}",
            @"Missing or corrupt: \WINNT\system32\hal.dll. It has always been called so, or has it?",
            machine => EditList(machine, text => text.Replace(@"\WINDOWS", @"\WINNT", StringComparison.Ordinal))),
        Of(
            "nt5-sector-loads-bootmgr",
            "BF-1150",
            "Till 2, {0}",
            "BOOTMGR is missing, on an old till. A repair disk of a newer Windows was in it.",
            machine => BootSectorEditor.WriteCode(machine.SystemVolume!, KeelBootCode.Ntfs(LoaderKind.BootManager))),
        Of(
            "nt5-hive-damaged",
            "BF-1151",
            "Till 3, {0}",
            @"The following file is missing or corrupt: \WINDOWS\SYSTEM32\CONFIG\SYSTEM.",
            machine => machine.Installations[0].Volume.Edit(files =>
                files.WriteFile(@"\WINDOWS\system32\config\system", new byte[40_960]))),
        Of(
            "nt5-kernel-missing",
            "BF-1152",
            "Bar on deck 4, {0}",
            @"hal.dll again, and this time boot.ini is right.",
            machine => machine.Installations[0].Volume.Edit(files => files.Delete(@"\WINDOWS\system32\hal.dll")))
    ];

    private static Fault Of(string id, string ticket, string caller, string words, Action<Machine> apply) =>
        new(id, ticket, caller, words, apply) { IsNt5 = true, Only = FirmwareKind.Bios };

    private static void EditList(Machine machine, Func<string, string> change) => machine.SystemVolume!.Edit(files =>
        files.WriteFile(BootListState.Path, Encoding.ASCII.GetBytes(change(Encoding.ASCII.GetString(PracticeNt5.List)))));

    private static void Compress(IVolume files)
    {
        var bytes = files.ReadFile(Nt5LoaderCheck.Path);
        var marks = files.Find(Nt5LoaderCheck.Path)!.Marks;
        files.Delete(Nt5LoaderCheck.Path);
        ((NtfsVolume)files).WriteCompressed(Nt5LoaderCheck.Path, bytes);
        files.SetMarks(Nt5LoaderCheck.Path, marks & FileMarks.Changeable);
    }
}

using Keel.Core.Disks.Virtual;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Drills;

/// <summary>Faults of a Windows that starts from a virtual disk file.</summary>
internal static class InsideFaults
{
    public static readonly IReadOnlyList<Fault> All =
    [
        new(
            "inside-entry-missing",
            "BF-1131",
            "Chart room, {0}",
            "Windows is in a file on this one. Somebody tidied the start menu up, and now there is nothing to choose.",
            machine => StoreFaults.EditStore(machine, store => store.Drop(store.WindowsEntries[0].Id))) { IsInside = true },
        new(
            "inside-file-moved",
            "BF-1132",
            "Chart room, {0}",
            "I gave the folder with the machines a better name. 0xc000000f.",
            machine => Holder(machine).Edit(files => files.Rename(@"\machines", "machines of the line"))) { IsInside = true },
        new(
            "inside-file-damaged",
            "BF-1133",
            "Back office, {0}",
            "The copy of the big file was cut off, the stick was full. It does not start from it.",
            machine => Holder(machine).Edit(files =>
            {
                var bytes = files.ReadFile(PracticeInside.File);
                files.WriteFile(PracticeInside.File, bytes.AsSpan(0, bytes.Length / 2));
            }))
        { IsInside = true },
        new(
            "inside-parent-missing",
            "BF-1135",
            "Chart room, {0}",
            "There were two large files in the folder, the older one is on a stick now. Since then 0xc000000f.",
            machine => Holder(machine).Edit(TakeParentAway)) { IsInside = true },
        new(
            "inside-file-missing",
            "BF-1134",
            "Back office, {0}",
            "We deleted a large file to make room. Now it wants to be repaired.",
            machine => Holder(machine).Edit(files => files.Delete(PracticeInside.File))) { IsInside = true },
        new(
            "inside-loader-missing",
            "BF-1156",
            "Chart room, {0}",
            "The second Windows, the one in the file, says winload is missing. Somebody had tidied the file.",
            machine => machine.Installations[0].Volume.Edit(files =>
                files.Delete($@"\Windows\System32\{machine.BootFiles.LoaderName}")))
        { IsInside = true, FindingId = "loader-missing" }
    ];

    /// <summary>The file gets a child in its place, and is gone itself.</summary>
    private static void TakeParentAway(IVolume files)
    {
        const string older = "as delivered.vhdx";
        var old = new FileInVolume(() => files, PracticeInside.File);
        var claim = new ParentClaim([$@".\{older}"], VhdxHeaders.Read(old).Current.DataWriteId);
        var length = VhdxDisk.Open(old, _ => throw new InvalidOperationException("It has no parent.")).LengthBytes;
        files.Delete(PracticeInside.File);
        files.WriteFile(PracticeInside.File, []);
        VhdxMaking.Make(new FileInVolume(() => files, PracticeInside.File), length, parent: claim);
    }

    private static DiskVolume Holder(Machine machine) =>
        machine.StartDisk.Volumes.First(volume => volume.Files?.FileExists(PracticeInside.File) == true);
}

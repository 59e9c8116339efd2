using Keel.Core.Chain;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Drills;

/// <summary>Faults of the recovery environment: Windows starts, and its own repair tools can't be reached.</summary>
internal static class RecoveryFaults
{
    public static readonly IReadOnlyList<Fault> All =
    [
        new(
            "recovery-entry-missing",
            "BF-1136",
            "Harbour school, {0}",
            "It starts. The repair tools that came with it do not, after somebody had rebuilt the start menu.",
            machine => StoreFaults.EditStore(machine, TakeOut)),
        new(
            "recovery-image-missing",
            "BF-1137",
            "Ticket office, {0}",
            "I gave the hidden drive a letter and emptied it. It starts all the same; may I leave it so?",
            machine => Holder(machine).Edit(files => files.Delete(PracticeRecovery.File))),
        new(
            "recovery-image-damaged",
            "BF-1138",
            "Night purser, {0}",
            "It was to repair itself, and only said that the ramdisk can't be made. Off and on again, and it started.",
            machine => Holder(machine).Edit(CutShort)),
        new(
            "preferred-recovery",
            "BF-1139",
            "Quay office, {0}",
            "Each morning it comes up with the blue page where one may choose repairs. We never asked for that.",
            machine => StoreFaults.EditStore(machine, store =>
                store.Manager!.Set(Element.Preferred, store.Entries.First(entry => entry.IsRecovery).Id)))
    ];

    private static void TakeOut(BootStore store)
    {
        foreach (var entry in store.Entries.Where(entry => entry.IsRecovery).ToList())
        {
            if (entry.Device(Element.WindowsVolume)?.Options is { } options) store.Drop(options);
            store.Drop(entry.Id);
        }
    }

    private static void CutShort(IVolume files)
    {
        var bytes = files.ReadFile(PracticeRecovery.File);
        files.WriteFile(PracticeRecovery.File, bytes.AsSpan(0, bytes.Length / 2));
    }

    private static DiskVolume Holder(Machine machine) => RecoveryPlaces.Of(machine)[0].Volume;
}

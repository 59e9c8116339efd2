using Keel.Core.Chain;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Drills;

/// <summary>Faults that take a copy from outside of the Windows: its own stores have none.</summary>
internal static class SourceFaults
{
    private const string System32 = @"\Windows\System32", Kernel = "ntoskrnl.exe";

    public static readonly IReadOnlyList<Fault> All =
    [
        new(
            "loader-only-in-recovery-image",
            "BF-1196",
            "Radio room, {0}",
            "Somebody freed room with a list from the web. 0xc000000f, winload. It has no medium, but its own repair tools.",
            machine =>
            {
                var spec = new PracticeSpec();
                var image = PracticeMedium.RecoveryImage(Windows(machine).Files!, spec);
                RecoveryPlaces.Of(machine)[0].Volume.Edit(files => files.WriteFile(PracticeRecovery.File, image));
                Windows(machine).Edit(files =>
                {
                    files.Delete($@"{System32}\{machine.BootFiles.LoaderName}");
                    files.Delete($@"{System32}\Boot\{machine.BootFiles.LoaderName}");
                });
            })
        {
            FindingId = "loader-missing"
        },
        new(
            "kernel-only-on-medium",
            "BF-1197",
            "Customs shed, {0}",
            "The same list from the web, and here it took the kernel. The medium that it was installed from is at hand.",
            machine => Windows(machine).Edit(files =>
            {
                files.Delete($@"{System32}\{Kernel}");
                foreach (var place in Programs.SpareCopies.InComponents(files, @"\Windows", Kernel).ToList()) files.Delete(place);
            }))
        {
            FindingId = "kernel-missing",
            WithMedium = true
        }
    ];

    private static DiskVolume Windows(Machine machine) => machine.Installations[0].Volume;
}

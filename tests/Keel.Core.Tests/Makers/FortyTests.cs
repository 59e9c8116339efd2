using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Tests;

namespace Keel.Core.Tests.Makers;

/// <summary>
/// The causes that a support desk meets, each found by itself on a machine whose table, file systems and store others made.
/// </summary>
public sealed class FortyTests
{
    private const string OldFirmware = "Windows 10, recovery last, BIOS", NewFirmware = "Windows 11, as setup makes it";

    /// <summary>The number of the cause, and the fault of it; those for one firmware are tried on that.</summary>
    private static readonly (int Cause, string Fault)[] Causes =
    [
        (1, "store-missing"), (1, "store-torn"), (1, "store-cells-damaged"), (2, "entry-stale-volume"),
        (4, "table-none-active"), (4, "table-active-wrong"), (5, "sector-wiped"), (5, "sector-wrong-hidden"),
        (6, "manager-missing"), (6, "manager-damaged"), (7, "esp-formatted"), (7, "system-volume-full"),
        (8, "firmware-order-wrong"), (12, "manager-older-than-loader"), (13, "loader-missing"),
        (13, "loader-altered"), (14, "entry-named-file-missing"), (15, "kernel-missing"), (15, "kernel-altered"),
        (16, "kernel-other-build"), (17, "session-file-missing"), (17, "session-file-damaged"), (19, "system-hive-damaged"),
        (19, "system-hive-missing"), (19, "control-set-missing"), (20, "software-hive-missing"), (21, "session-hive-damaged"),
        (21, "session-hive-missing"), (22, "start-driver-key-missing"), (23, "driver-missing"), (23, "driver-library-missing"),
        (24, "storage-driver-disabled"), (25, "storage-driver-overridden"), (26, "class-filter-without-driver"),
        (26, "input-filter-without-driver"), (27, "start-driver-off"), (28, "driver-early-missing"), (32, "setup-broken-off"),
        (32, "setup-marked-failed"), (33, "entry-memory-withheld"), (34, "entry-safe-start"), (34, "entry-debugger-let-in"),
        (34, "entry-last-good"), (35, "once-only-dangling"), (36, "logon-shell-wrong"), (36, "userinit-wrong"),
        (36, "sign-in-file-missing"), (36, "debugger-on-sign-in-program"), (36, "debugger-on-start-program"),
        (36, "profile-set-aside"), (37, "windows-letter-elsewhere"), (38, "windows-volume-full"), (39, "volume-unclean"),
        (39, "volume-hibernated")
    ];

    public static TheoryData<int, string, FirmwareKind> Rows()
    {
        var rows = new TheoryData<int, string, FirmwareKind>();
        foreach (var (cause, fault) in Causes)
        {
            foreach (var firmware in Enum.GetValues<FirmwareKind>().Where(Faults.Find(fault).AppliesTo))
                rows.Add(cause, fault, firmware);
        }

        return rows;
    }

    [Theory]
    [MemberData(nameof(Rows))]
    public async Task It_is_found(int cause, string fault, FirmwareKind firmware)
    {
        // Each cause on one firmware or the other in turn; what there is for one only, on that.
        var isOnlyOne = Faults.Find(fault).Only is not null;
        if (!isOnlyOne && !Rotation.IsTurnOf((cause + (int)firmware) % 2, 2)) return;
        var name = firmware == FirmwareKind.Bios ? OldFirmware : NewFirmware;
        using var scratch = new Scratch();
        var made = new MakersMachine(MakersLayouts.All.Single(layout => layout.Name == name), scratch);
        using (await made.Make())
        {
        }

        foreach (var stage in Faults.Find(fault).Stages) made.Change(stage);
        using var broken = made.Open();
        var plan = Plan.For(broken, RepairTerms.Usual);
        plan.Findings.Select(finding => finding.Id).ShouldContain(Faults.Find(fault).FindingId, $"cause {cause}");
    }
}

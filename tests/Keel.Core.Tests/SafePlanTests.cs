using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Core.Tests;

/// <summary>Which plans may be carried out without anybody reading them.</summary>
public sealed class SafePlanTests
{
    private static readonly string[] SafeOnBios =
    [
        "boot-execute-wrong", "boot-line-wrong-folder", "boot-line-wrong-partition", "boot-list-empty",
        "boot-list-missing", "boot-list-unreadable", "control-set-missing", "detect-missing", "device-other-disk",
        "driver-altered", "driver-early-missing", "driver-library-missing", "driver-missing", "driver-snapshot",
        "encrypted-suspended", "entry-duplicate", "entry-incomplete", "entry-missing", "entry-stale-volume", "entry-unlisted",
        "entry-wrong-folder", "entry-wrong-loader-kind", "entry-wrong-path", "entry-wrong-volume", "files-hidden-locked",
        "files-packed-damaged", "loader-only-in-recovery-image",
        "kernel-altered-quietly", "driver-catalog-gone",
        "inside-entry-missing", "inside-file-moved", "inside-loader-missing", "kernel-altered", "kernel-missing",
        "loader-altered", "loader-cut-short", "loader-damaged", "loader-missing", "loader-wrong-machine",
        "loader-zero-filled", "logon-shell-wrong", "manager-altered", "manager-compressed", "manager-cut-short",
        "manager-damaged", "manager-empty", "manager-entry-missing", "manager-missing", "mbr-code-wiped",
        "mbr-mark-missing", "mft-mirror-differs", "nt5-kernel-missing", "nt5-sector-loads-bootmgr", "ntldr-compressed",
        "ntldr-damaged", "ntldr-missing", "order-dangling", "partition-too-small", "partition-wrong-type",
        "preferred-dangling", "preferred-recovery", "preferred-starts-nothing", "recovery-entry-missing",
        "sector-both-copies-gone", "sector-mark-missing", "sector-nt5-code", "sector-wiped", "sector-wrong-hidden",
        "session-file-damaged", "session-file-missing", "sign-in-file-damaged", "sign-in-file-missing", "start-driver-off",
        "storage-driver-disabled", "storage-driver-overridden", "store-bad-checksum", "store-cells-damaged", "store-empty",
        "store-missing", "store-torn", "store-truncated", "system-hive-torn", "table-active-wrong", "table-none-active",
        "table-overlap", "table-past-end", "table-two-active", "userinit-wrong", "wait-zero-no-menu",
        "windows-folder-renamed", "windows-volume-sector-wiped"
    ];

    private static readonly string[] SafeOnUefi =
    [
        "boot-execute-wrong", "control-set-missing", "device-other-disk", "driver-altered", "driver-early-missing",
        "driver-library-missing", "driver-missing", "driver-snapshot", "encrypted-suspended", "entry-duplicate",
        "entry-incomplete", "entry-missing", "entry-stale-volume", "entry-unlisted", "entry-wrong-folder",
        "entry-wrong-loader-kind",
        "entry-wrong-path", "entry-wrong-volume", "esp-fat-damaged", "esp-formatted", "esp-wrong-type", "fallback-damaged",
        "fallback-missing", "files-hidden-locked", "files-packed-damaged", "loader-only-in-recovery-image",
        "kernel-altered-quietly", "driver-catalog-gone",
        "gpt-backup-damaged", "gpt-overwritten", "gpt-primary-damaged",
        "gpt-protective-missing", "inside-entry-missing", "inside-file-moved", "inside-loader-missing", "kernel-altered",
        "kernel-missing", "loader-altered", "loader-cut-short", "loader-damaged", "loader-missing", "loader-wrong-machine",
        "loader-zero-filled", "logon-shell-wrong", "manager-cut-short", "manager-damaged", "manager-empty",
        "manager-entry-missing", "manager-missing", "manager-wrong-machine", "mft-mirror-differs", "order-dangling",
        "partition-too-small", "partition-wrong-type", "preferred-dangling", "preferred-recovery",
        "preferred-starts-nothing", "recovery-entry-missing", "session-file-damaged", "session-file-missing",
        "sign-in-file-damaged", "sign-in-file-missing", "start-driver-off", "storage-driver-disabled",
        "storage-driver-overridden", "store-bad-checksum", "store-cells-damaged", "store-empty", "store-missing",
        "store-torn", "store-truncated", "system-hive-torn", "userinit-wrong", "wait-zero-no-menu",
        "windows-folder-renamed", "windows-volume-sector-wiped"
    ];

    [Theory]
    [InlineData("store-missing", true)]
    [InlineData("mbr-code-wiped", true)]
    [InlineData("driver-altered", true)]
    [InlineData("manager-missing", true)]
    [InlineData("system-hive-torn", true)]                  // nothing is lost: the log has it
    [InlineData("driver-snapshot", true)]
    [InlineData("none", false)]                             // there is no plan
    [InlineData("system-hive-damaged", false)]              // settings are lost
    [InlineData("system-hive-snapshot", false)]
    [InlineData("software-hive-snapshot", false)]
    [InlineData("driver-new-and-bad", false)]               // something is left out that was put there
    [InlineData("volume-unclean", false)]                   // nothing can be done
    [InlineData("foreign-mbr-code", false)]
    public void Only_what_loses_nothing_and_ends_sound(string fault, bool isSafe)
    {
        using var practice = new Practice(fault);
        SafePlan.Holds(practice.Machine, Plan.For(practice.Machine, RepairTerms.Usual)).ShouldBe(isSafe);
    }

    [Theory]
    [InlineData("esp-missing")]
    [InlineData("esp-no-file-system")]
    public void A_new_file_system_is_for_people_to_agree_to(string fault)
    {
        using var practice = new Practice(fault, FirmwareKind.Uefi);
        SafePlan.Holds(practice.Machine, Plan.For(practice.Machine, RepairTerms.Usual)).ShouldBeFalse();
    }

    [Fact]
    public void Half_of_a_repair_is_none()
    {
        using var practice = new Practice("store-missing");
        practice.ChangeWindows(files =>
        {
            foreach (var name in (string[])["ntoskrnl.exe", "hal.dll"]) files.Delete($@"\Windows\System32\{name}");
            foreach (var component in files.List(@"\Windows\WinSxS"))
            {
                foreach (var file in files.List($@"\Windows\WinSxS\{component.Name}").Where(file => !file.IsFolder))
                    files.Delete($@"\Windows\WinSxS\{component.Name}\{file.Name}");
            }
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Steps.Count.ShouldBeGreaterThan(0);
        plan.After.Verdict.ShouldBe(Verdict.Broken);
        SafePlan.Holds(practice.Machine, plan).ShouldBeFalse();
    }

    /// <summary>
    /// Every fault, with the machine's firmware: a new one is left to people until somebody has thought about it and put it here.
    /// </summary>
    [Theory]
    [InlineData(FirmwareKind.Bios)]
    [InlineData(FirmwareKind.Uefi)]
    public void Faults_that_are_mended_unread_are_these(FirmwareKind firmware)
    {
        var safe = new List<string>();
        foreach (var fault in Faults.All.Where(fault => fault.AppliesTo(firmware)))
        {
            using var practice = new Practice(fault.Id, firmware);
            var plan = Plan.For(practice.Machine, RepairTerms.Usual);
            if (!SafePlan.Holds(practice.Machine, plan)) continue;
            safe.Add(fault.Id);
            plan.Steps.SelectMany(step => step.Details)
                .ShouldNotContain(line => line.Says.Id.Contains("lost", StringComparison.Ordinal), fault.Id);
        }

        safe.Order(StringComparer.Ordinal).ShouldBe(
            (firmware == FirmwareKind.Bios ? SafeOnBios : SafeOnUefi).Order(StringComparer.Ordinal));
    }
}

using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Firmware;
using Keel.Core.Keys;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Volumes.BitLocker;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Every fault on a disk with sectors of 4096 bytes: found, and mended wherever such a disk can be.</summary>
public sealed class LargeSectorTests
{
    private static readonly string[] LeftAlone = [
        "volume-unclean",
        "volume-hibernated",
        "volume-encrypted",
        "update-half-done",
        "system-volume-full",
        "layout-firmware-mismatch",
        "foreign-mbr-code",
        "store-redirected",
        "recovery-image-missing",
        "recovery-image-damaged",
        "software-hive-missing",
        "start-driver-key-missing",
        "inside-file-damaged",
        "inside-file-missing",
        "inside-parent-missing",
        "setup-broken-off",
        "profile-set-aside",
        "windows-volume-full",
        "kernel-other-build",
        "manager-older-than-loader",
        "encryption-metadata-damaged",
        "encrypted-metadata-one-left",
        "encryption-metadata-lost",
        "kernel-only-on-medium"
    ];

    public static IEnumerable<TheoryDataRow<string>> EveryFault() =>
        from fault in Faults.All
        where fault.AppliesTo(FirmwareKind.Uefi) && !fault.WithClone
        select new TheoryDataRow<string>(fault.Id);

    [Theory, MemberData(nameof(EveryFault))]
    public void A_fault_is_found_and_mended(string fault)
    {
        using var scratch = new Scratch();
        var path = scratch["disk"];
        PracticeImage.Make(path, new PracticeSpec { Firmware = FirmwareKind.Uefi, SectorBytes = 4096 }, Faults.Find(fault));
        var variables = PracticeVariables.FolderFor(path);
        using var keys = new KeyRing();
        var keyFile = PracticeDisk.KeyFileFor(path);
        if (File.Exists(keyFile) && fault != "volume-encrypted") keys.Add(KeyFile.Read(File.ReadAllBytes(keyFile), keyFile)[0]);
        using var machine = Machine.Open(
            [path],
            Directory.Exists(variables) ? FirmwareVariables.Open(variables) : null,
            startsThrough: null,
            sectorBytes: 4096,
            DiskTerms.Usual with { Keys = keys });
        var plan = Plan.For(machine, RepairTerms.Usual);
        var found = plan.Findings.Where(finding => finding.Kind.Severity != Severity.Note).Select(finding => finding.Id).ToList();
        if (fault == "none") found.ShouldBeEmpty();
        else found.ShouldContain(Faults.Find(fault).FindingId);
        if (LeftAlone.Contains(fault)) plan.Steps.ShouldBeEmpty();
        else
        {
            plan.After.Verdict.ShouldBe(
                Verdict.Sound,
                string.Join("; ", plan.Refused.Select(refusal => $"{refusal.FindingId}: {refusal.Why}")));
        }
    }

    [Fact]
    public void An_image_of_such_a_disk_is_recognised_by_its_table()
    {
        using var scratch = new Scratch();
        PracticeImage.Make(
            scratch["disk"],
            new PracticeSpec { Firmware = FirmwareKind.Uefi, SectorBytes = 4096 },
            Faults.Find("none"));
        using var disk = MachineDisk.Open(scratch["disk"]);
        disk.Overlay.SectorBytes.ShouldBe(4096);
        disk.Layout.Problems.ShouldBeEmpty();
        disk.Layout.Partitions.Count.ShouldBe(4);
    }
}

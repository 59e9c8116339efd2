using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Entries that lack, misspell or misdirect something: put right where one installation fits, else left.</summary>
public sealed class EntryFitTests
{
    public static TheoryData<string, string> Changes => new()
    {
        { "no windows-volume", "entry-incomplete" },
        { "no program-volume", "entry-incomplete" },
        { "no windows-folder", "entry-incomplete" },
        { "no program-file", "entry-incomplete" },
        { "an empty folder", "entry-incomplete" },
        { "a cut windows-volume", "entry-incomplete" },
        { "a cut program-volume", "entry-incomplete" },
        { "the system volume as windows-volume", "entry-wrong-volume" },
        { "the system volume as program-volume", "entry-wrong-volume" },
        { "a slip in the path", "entry-wrong-path" },
        { "a slip in the folder", "entry-wrong-folder" },
        { "the memory test preferred", "preferred-starts-nothing" },
        { "settings preferred", "preferred-starts-nothing" }
    };

    [Theory, MemberData(nameof(Changes))]
    public void What_is_wrong_with_an_entry_is_found_and_put_right(string change, string finding)
    {
        using var practice = new Practice();
        Change(practice, store => Apply(store, practice, change));

        var plan = Plan.For(practice.Machine, RepairTerms.Usual);

        plan.Before.Findings
            .Where(found => found.Kind.Severity != Severity.Note)
            .Select(found => found.Id)
            .ShouldBe([finding]);
        plan.Steps.ShouldHaveSingleItem().FindingId.ShouldBe(finding);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        var entry = practice.Machine.Store.Store!.WindowsEntries[0];
        practice.Machine.VolumeOf(entry.Device(Element.WindowsVolume)).ShouldBe(practice.Windows);
        practice.Machine.VolumeOf(entry.Device(Element.ProgramVolume)).ShouldBe(practice.Windows);
        entry.Text(Element.WindowsFolder).ShouldBe(@"\Windows", StringCompareShould.IgnoreCase);
        entry.Text(Element.ProgramFile).ShouldBe(@"\Windows\System32\winload.exe", StringCompareShould.IgnoreCase);
    }

    [Fact]
    public void With_several_installations_that_fit_none_is_chosen()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            foreach (var file in new[] { "winload.exe", "ntoskrnl.exe", @"config\SYSTEM", @"config\SOFTWARE" })
            {
                files.CreateFolder(@"\Second\System32\config");
                files.WriteFile($@"\Second\System32\{file}", files.ReadFile($@"\Windows\System32\{file}"));
            }
        });
        Change(practice, store =>
        {
            store.WindowsEntries[0].Set(Element.WindowsFolder, @"\Windoes");
            store.WindowsEntries[0].Set(Element.ProgramFile, @"\Windoes\System32\winload.exe");
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Steps.ShouldBeEmpty();
        plan.Refused.ShouldContain(refusal => refusal.Why.Id == "left.entry-several-fit");

        Plan.For(practice.Machine, RepairTerms.Usual with { FittingInstallation = 3 }).Steps.ShouldBeEmpty();
        var chosen = Plan.For(practice.Machine, RepairTerms.Usual with { FittingInstallation = 2 });
        chosen.Steps.ShouldHaveSingleItem();
        practice.Machine.Store.Store!.WindowsEntries[0].Text(Element.WindowsFolder).ShouldBe(@"\Second");
    }

    [Fact]
    public void A_renamed_folder_gets_the_name_back_that_its_own_hive_remembers()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files => files.Rename(@"\Windows", "Windows.alt"));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Steps.ShouldHaveSingleItem().FindingId.ShouldBe("windows-folder-renamed");
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        practice.Windows.Files!.Find(@"\Windows").ShouldNotBeNull();
    }

    /// <summary>Double faults that random drills met.</summary>
    [Theory]
    [InlineData("device-other-disk+windows-folder-renamed", FirmwareKind.Bios)]
    [InlineData("device-other-disk+windows-folder-renamed", FirmwareKind.Uefi)]
    [InlineData("entry-wrong-volume+windows-folder-renamed", FirmwareKind.Uefi)]
    [InlineData("entry-incomplete+windows-folder-renamed", FirmwareKind.Bios)]
    [InlineData("entry-wrong-path+loader-missing", FirmwareKind.Bios)]
    [InlineData("volume-unlisted+entry-stale-volume", FirmwareKind.Bios)]
    [InlineData("windows-volume-sector-wiped+store-missing", FirmwareKind.Uefi)]
    [InlineData("partition-wrong-type+store-missing", FirmwareKind.Bios)]
    [InlineData("esp-fat-damaged+gpt-both-damaged", FirmwareKind.Uefi)]
    [InlineData("esp-fat-damaged+gpt-both-damaged+system-hive-damaged", FirmwareKind.Uefi)]
    [InlineData("sector-nt5-code+manager-missing", FirmwareKind.Bios)]
    [InlineData("sector-nt5-code+manager-missing+loader-zero-filled", FirmwareKind.Bios)]
    public void Two_faults_at_once_are_mended(string faults, FirmwareKind firmware)
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec { Firmware = firmware }, Faults.FindAll(faults));
        using var machine = Machine.Open(scratch["disk"]);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(
            Verdict.Sound,
            string.Join("; ", plan.Refused.Select(refusal => $"{refusal.FindingId}: {refusal.Why}")));
    }

    [Fact]
    public void What_a_repair_shows_before_it_is_a_step_of_its_own_and_without_it_neither_is_taken()
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.FindAll("sector-nt5-code+manager-missing"));
        using var machine = Machine.Open(scratch["disk"]);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps.Select(step => step.FindingId).ShouldBe(["manager-missing", "sector-nt5-code"]);
        var declined = plan.Without(plan.Steps[1]);
        declined.Steps.ShouldBeEmpty();
        declined.Changes.Any.ShouldBeFalse();
        declined.Refused.ShouldContain(refusal =>
            refusal.FindingId == "manager-missing" && refusal.Why.Id == "left.stops-earlier");
    }

    [Theory]
    [InlineData(0x10300006u)]
    [InlineData(0x10400008u)]
    public void Another_system_that_is_preferred_is_a_note_and_the_windows_of_the_menu_is_walked(uint type)
    {
        using var practice = new Practice();
        Change(practice, store =>
        {
            var other = store.Add(new EntryId(Guid.Parse("5ea57a1e-0000-4000-8000-00000000aa01")), new EntryType(type));
            other.Set(Element.Title, "Older till system");
            store.Manager!.Set(Element.Preferred, other.Id);
        });
        var walk = Walk.Of(practice.Machine);
        walk.Verdict.ShouldBe(Verdict.Sound);
        walk.Findings.ShouldContain(finding => finding.Kind == ManagerEntryCheck.StartsOther);
    }

    [Fact]
    public void An_entry_on_a_virtual_disk_says_so()
    {
        using var practice = new Practice();
        Change(practice, store =>
        {
            var inner = store.WindowsEntries[0].Device(Element.WindowsVolume)!;
            store.WindowsEntries[0].Set(Element.WindowsVolume, BootDevice.OfFile(inner, @"\machines\second.vhdx"));
        });
        var walk = Walk.Of(practice.Machine);
        walk.Findings.ShouldContain(finding => finding.Kind == WindowsEntryCheck.OnVirtualDisk);
        walk.Findings.ShouldNotContain(finding => finding.Kind == WindowsEntryCheck.Incomplete);
    }

    private static void Apply(BootStore store, Practice practice, string change)
    {
        var entry = store.WindowsEntries[0];
        var system = BootDevice.Of(practice.System.DiskIdentity, practice.System.Partition);
        switch (change)
        {
            case "no windows-volume":
                entry.Remove(Element.WindowsVolume);
                break;
            case "no program-volume":
                entry.Remove(Element.ProgramVolume);
                break;
            case "no windows-folder":
                entry.Remove(Element.WindowsFolder);
                break;
            case "no program-file":
                entry.Remove(Element.ProgramFile);
                break;
            case "an empty folder":
                entry.Set(Element.WindowsFolder, "");
                break;
            case "a cut windows-volume":
                entry.Set(Element.WindowsVolume, BootDevice.Read(entry.Device(Element.WindowsVolume)!.Raw[..40]));
                break;
            case "a cut program-volume":
                entry.Set(Element.ProgramVolume, BootDevice.Read(entry.Device(Element.ProgramVolume)!.Raw[..^4]));
                break;
            case "the system volume as windows-volume":
                entry.Set(Element.WindowsVolume, system);
                break;
            case "the system volume as program-volume":
                entry.Set(Element.ProgramVolume, system);
                break;
            case "a slip in the path":
                entry.Set(Element.ProgramFile, @"\Windows\Sytem32\winload.exe");
                break;
            case "a slip in the folder":
                entry.Set(Element.WindowsFolder, @"\Windoes");
                break;
            case "the memory test preferred":
                store.Manager!.Set(Element.Preferred, EntryId.MemoryTest);
                break;
            default:
                store.Manager!.Set(Element.Preferred, store.Entries.First(known => known.Type.IsSettings).Id);
                break;
        }
    }

    private static void Change(Practice practice, Action<BootStore> change)
    {
        var store = practice.Machine.Store.Store!;
        change(store);
        var (path, bytes) = (practice.Machine.Store.Path, store.ToBytes());
        practice.ChangeSystem(files => files.WriteFile(path, bytes));
    }
}

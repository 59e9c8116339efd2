using System.Text;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Programs;
using Keel.Core.Requests;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Tests;

/// <summary>The recovery environment of a Windows: found, led to by the store, and told where that is not so.</summary>
public sealed class RecoveryTests
{
    private const string Settings = @"\Windows\System32\Recovery\ReAgent.xml";

    public static TheoryData<string, string> Breaks() => new()
    {
        { "no rescue entry named", "recovery-entry-missing" },
        { "a rescue entry that is gone", "recovery-entry-missing" },
        { "the entry gone, the name left", "recovery-entry-missing" },
        { "no options", "recovery-entry-missing" },
        { "options without a file", "recovery-entry-missing" },
        { "options of another disk", "recovery-entry-missing" },
        { "an image of another disk", "recovery-entry-missing" },
        { "the loader of the other firmware", "recovery-entry-missing" },
        { "no ramdisk", "recovery-entry-missing" },
        { "no program volume", "recovery-entry-missing" },
        { "the image put back into Windows", "recovery-entry-missing" },
        { "the ramdisk's beginning only in Windows", "recovery-entry-missing" },
        { "the recovery preferred", "preferred-recovery" }
    };

    [Theory, MemberData(nameof(Breaks))]
    public void Where_the_store_does_not_lead_to_it_that_is_found_and_mended(string change, string finding)
    {
        foreach (var firmware in new[] { FirmwareKind.Bios, FirmwareKind.Uefi })
        {
            using var practice = new Practice(firmware: firmware);
            practice.Change(machine => Break(machine, change));

            var plan = Plan.For(practice.Machine, RepairTerms.Usual);

            plan.Before.Findings.Select(found => found.Id).ShouldBe([finding], change);
            plan.Before.Verdict.ShouldBe(Verdict.Doubtful);
            plan.Steps.ShouldHaveSingleItem().FindingId.ShouldBe(finding);
            plan.After.Verdict.ShouldBe(Verdict.Sound);
            LeadsToImage(practice.Machine);
        }
    }

    public static TheoryData<string> SoundOnes() =>
    [
        "switched off, and no entry",
        "no settings, and no entry",
        "settings that are no XML, and no entry",
        "settings with a document type, and no entry",
        "settings of a megabyte, and no entry",
        "another rescue entry instead",
        "two rescue entries",
        "no recovery environment at all"
    ];

    [Theory, MemberData(nameof(SoundOnes))]
    public void What_is_meant_so_is_no_finding(string change)
    {
        using var practice = new Practice();
        practice.Change(machine => Furnish(machine, change));
        Walk.Of(practice.Machine).Findings.Select(found => found.Id).ShouldBeEmpty(change);
    }

    /// <summary>A store that only starts an image is the one of a medium, unless a Windows is there.</summary>
    [Theory]
    [InlineData(true, "entry-missing")]
    [InlineData(false, "entry-on-virtual-disk")]
    public void A_recovery_environment_alone_is_no_Windows(bool hasWindows, string finding)
    {
        using var practice = new Practice();
        practice.Change(machine =>
        {
            StoreFaults.EditStore(machine, store =>
            {
                var recovery = store.Entries.First(entry => entry.IsRecovery);
                store.Drop(store.WindowsEntries[0].Id);
                store.Manager!.Set(Element.Preferred, recovery.Id);
                store.Manager.Set(Element.MenuOrder, [recovery.Id]);
            });
            if (!hasWindows) machine.Installations[0].Volume.Edit(files => files.Rename(@"\Windows\System32", "S"));
        });

        Walk.Of(practice.Machine).Findings.Select(found => found.Id).ShouldContain(finding);
        if (!hasWindows) return;
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        LeadsToImage(practice.Machine);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(100)]
    [InlineData(207)]
    [InlineData(24_500)]
    public void An_image_cut_short_is_told_and_left(int length)
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
            files.WriteFile(PracticeRecovery.File, files.ReadFile(PracticeRecovery.File).AsSpan(0, length)));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.Findings.Select(found => found.Id).ShouldBe(["recovery-image-damaged"]);
        plan.Steps.ShouldBeEmpty();
        Should.Throw<RefusedException>(() => StoreRequests.Change(
            practice.Machine,
            null,
            store => RecoveryRequests.Add(practice.Machine, store)));
    }

    [Fact]
    public void A_new_store_leads_to_it_as_Windows_remembers_it()
    {
        using var practice = new Practice();
        var id = RecoveryPlaces.Of(practice.Machine).ShouldHaveSingleItem().Settings.Entry.ShouldNotBeNull();
        var plan = StoreRequests.Rebuild(practice.Machine, null, fresh: true, (_, _) => true, RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        LeadsToImage(practice.Machine).ShouldBe(id);
    }

    /// <summary>Windows knows the form of its own devices best: one that means the same stays to the byte.</summary>
    [Fact]
    public void A_device_of_another_form_that_means_the_same_is_kept()
    {
        using var practice = new Practice();
        byte[] kept = [];
        practice.Change(machine => StoreFaults.EditStore(machine, store =>
        {
            var recovery = store.Entries.First(entry => entry.IsRecovery);
            var raw = recovery.Device(Element.WindowsVolume)!.Raw;
            kept = [.. raw, 0, 0, 0, 0];
            recovery.Set(Element.WindowsVolume, BootDevice.Read(kept));
            recovery.Set(Element.ProgramFile, @"\windows\system32\winload.efi");
        }));
        Plan.For(practice.Machine, RepairTerms.Usual).After.Verdict.ShouldBe(Verdict.Sound);
        practice.Machine.Store.Store!.Entries.First(entry => entry.IsRecovery).Device(Element.WindowsVolume)!.Raw.ShouldBe(kept);
    }

    [Fact]
    public void A_ramdisk_device_keeps_options_volume_and_path()
    {
        using var practice = new Practice();
        var volume = practice.Machine.DeviceOf(practice.Windows);
        var device = BootDevice.Read(BootDevice.OfRamdisk(EntryId.OptionsOfRamdisks, volume, @"\images\pe.wim").Raw);
        device.Options.ShouldBe(EntryId.OptionsOfRamdisks);
        device.IsCutShort.ShouldBeFalse();
        var place = device.AsFile().ShouldNotBeNull();
        (place.IsRamdisk, place.Path).ShouldBe((true, @"\images\pe.wim"));
        practice.Machine.VolumeOf(place.Inner).ShouldBe(practice.Windows);
        var names = new MachineDevices(practice.Machine);
        names.Describe(device).ShouldBe(@"ramdisk:2:\images\pe.wim");
        names.Parse(names.Describe(device)).Raw.ShouldBe(device.Raw);
    }

    /// <summary>The store leads from Windows to an image and to what a ramdisk begins with; gives the entry.</summary>
    private static EntryId LeadsToImage(Machine machine)
    {
        var store = machine.Store.Store!;
        var recovery = RecoveryEntries.NamedBy(store, store.WindowsEntries[0]).ShouldNotBeNull();
        foreach (var element in new[] { Element.WindowsVolume, Element.ProgramVolume })
        {
            var device = recovery.Device(element).ShouldNotBeNull();
            var place = device.AsFile().ShouldNotBeNull();
            place.IsRamdisk.ShouldBeTrue();
            machine.VolumeOf(place.Inner)!.Files!.FileExists(place.Path).ShouldBeTrue();
            var options = store.Entry(device.Options!.Value).ShouldNotBeNull();
            machine.VolumeOf(options.Device(Element.RamdiskVolume))!.Files!
                .FileExists(options.Text(Element.RamdiskFile)!).ShouldBeTrue();
        }

        recovery.Text(Element.ProgramFile).ShouldBe($@"\windows\system32\{machine.BootFiles.LoaderName}");
        store.Manager!.References(Element.MenuOrder).ShouldNotContain(recovery.Id);
        return recovery.Id;
    }

    private static void Break(Machine machine, string change)
    {
        var holder = RecoveryPlaces.Of(machine)[0].Volume;
        var elsewhere = BootDevice.Of(Layout.DiskIdentity.OfMbr(0x0BAD0042), holder.Partition with { Id = default });
        if (change.StartsWith("the image put", StringComparison.Ordinal))
        {
            var image = PracticeRecovery.Image();
            holder.Edit(files => files.Delete(PracticeRecovery.File));
            machine.Installations[0].Volume.Edit(files => files.WriteFile(@"\Windows\System32\Recovery\Winre.wim", image));
            return;
        }

        if (change.StartsWith("the ramdisk's", StringComparison.Ordinal))
        {
            holder.Edit(files => files.Delete($@"{PracticeRecovery.Folder}\boot.sdi"));
            machine.Installations[0].Volume.Edit(files =>
            {
                files.CreateFolder(@"\Windows\Boot\DVD\PCAT");
                files.WriteFile(@"\Windows\Boot\DVD\PCAT\boot.sdi", "$SDI0001"u8);
            });
            return;
        }

        StoreFaults.EditStore(machine, store =>
        {
            var windows = store.WindowsEntries[0];
            var recovery = RecoveryEntries.NamedBy(store, windows)!;
            var options = store.Entry(recovery.Device(Element.WindowsVolume)!.Options!.Value)!;
            switch (change)
            {
                case "no rescue entry named": windows.Remove(Element.RescueEntries); break;
                case "a rescue entry that is gone": windows.Set(Element.RescueEntries, [new EntryId(Guid.NewGuid())]); break;
                case "the entry gone, the name left":
                    store.Drop(recovery.Id);
                    windows.Set(Element.RescueEntries, [recovery.Id]);
                    break;
                case "no options": store.Drop(options.Id); break;
                case "options without a file": options.Remove(Element.RamdiskFile); break;
                case "options of another disk": options.Set(Element.RamdiskVolume, elsewhere); break;
                case "an image of another disk":
                    var device = BootDevice.OfRamdisk(options.Id, elsewhere, PracticeRecovery.File);
                    recovery.Set(Element.WindowsVolume, device);
                    recovery.Set(Element.ProgramVolume, device);
                    break;
                case "the loader of the other firmware":
                    var other = machine.Firmware == FirmwareKind.Bios ? "winload.efi" : "winload.exe";
                    recovery.Set(Element.ProgramFile, $@"\windows\system32\{other}");
                    break;
                case "no ramdisk": recovery.Set(Element.WindowsVolume, machine.DeviceOf(holder)); break;
                case "no program volume": recovery.Remove(Element.ProgramVolume); break;
                case "the recovery preferred": store.Manager!.Set(Element.Preferred, recovery.Id); break;
                default: throw new InvalidOperationException(change);
            }
        });
    }

    private static void Furnish(Machine machine, string change)
    {
        if (change.EndsWith("no entry", StringComparison.Ordinal)) StoreFaults.EditStore(machine, TakeOut);
        var settings = Encoding.ASCII.GetString(machine.Installations[0].Volume.Files!.ReadFile(Settings));
        var text = change.Split(',')[0] switch
        {
            "switched off" => settings.Replace("state=\"1\"", "state=\"0\"", StringComparison.Ordinal),
            "no settings" => "",
            "settings that are no XML" => "<WindowsRE><WinreBCD",
            "settings with a document type" => "<!DOCTYPE a [<!ENTITY b SYSTEM 'file:///etc/hostname'>]>" + settings,
            "settings of a megabyte" => settings + new string(' ', 1 << 20),
            _ => settings
        };
        machine.Installations[0].Volume.Edit(files => files.WriteFile(Settings, Encoding.ASCII.GetBytes(text)));
        if (change == "no recovery environment at all")
        {
            StoreFaults.EditStore(machine, TakeOut);
            machine.Installations[0].Volume.Edit(files => files.Delete(PracticeRecovery.File));
        }

        if (change.EndsWith("instead", StringComparison.Ordinal)) StoreFaults.EditStore(machine, RescueByTest);
        if (change == "two rescue entries") StoreFaults.EditStore(machine, store => store.WindowsEntries[0].Set(
            Element.RescueEntries,
            store.WindowsEntries[0].References(Element.RescueEntries).Prepend(EntryId.MemoryTest)));
    }

    private static void RescueByTest(BootStore store)
    {
        TakeOut(store);
        store.WindowsEntries[0].Set(Element.RescueEntries, [EntryId.MemoryTest]);
    }

    private static void TakeOut(BootStore store)
    {
        var recovery = store.Entries.First(entry => entry.IsRecovery);
        store.Drop(recovery.Device(Element.WindowsVolume)!.Options!.Value);
        store.Drop(recovery.Id);
        store.WindowsEntries[0].Remove(Element.RescueEntries);
    }
}

using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Programs;
using Keel.Core.Requests;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// A copy is not right because it is a copy: what is written was judged first, and what stands may be the right one.
/// </summary>
public sealed class GoodCopyTests
{
    private const string Manager = @"\bootmgr", Copy = @"\Windows\Boot\PCAT\bootmgr", EfiCopy = @"\Windows\Boot\EFI\bootmgfw.efi";
    private const string Component = @"\Windows\WinSxS\amd64_boot-environment-of-the-line_10.0.19045.1";
    private const string CatalogFolder = @"\Windows\System32\CatRoot\{F750E6C3-38EE-11D1-85E5-00C04FC295EE}";

    [Theory]
    [InlineData(400)]
    [InlineData(60_000)]
    [InlineData(-1)]
    public void A_damaged_copy_is_no_yardstick_for_the_sound_original(int at)
    {
        using var scratch = new Scratch();
        using var machine = With(scratch, FirmwareKind.Bios, files => Flip(files, Copy, at));
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps.ShouldBeEmpty();
        plan.Before.Verdict.ShouldBe(Verdict.Sound);
        plan.Findings.ShouldHaveSingleItem().Seen.Id.ShouldBe("manager.proven");
    }

    [Theory]
    [InlineData(400)]
    [InlineData(60_000)]
    public void What_the_catalog_does_not_list_is_replaced_by_what_it_lists(int at)
    {
        using var scratch = new Scratch();
        using var machine = With(scratch, FirmwareKind.Bios, files => { }, system => Flip(system, Manager, at));
        var sound = machine.Installations[0].Volume.Files!.ReadFile(Copy);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps.ShouldHaveSingleItem().FindingId.ShouldBe("manager-altered");
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        machine.SystemVolume!.Files!.ReadFile(Manager).ShouldBe(sound);
    }

    [Theory]
    [InlineData(Manager)]
    [InlineData(Copy)]
    public void Where_nothing_proves_either_the_one_that_stands_stays(string flipped)
    {
        using var scratch = new Scratch();
        using var machine = With(
            scratch,
            FirmwareKind.Bios,
            files =>
            {
                foreach (var catalog in files.List(CatalogFolder)) files.Delete($@"{CatalogFolder}\{catalog.Name}");
                if (flipped == Copy) Flip(files, Copy, 400);
            },
            system =>
            {
                if (flipped == Manager) Flip(system, Manager, 400);
            });
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps.ShouldBeEmpty();
        plan.Findings.ShouldHaveSingleItem().Seen.Id.ShouldBe("manager.not-proven");
    }

    /// <summary>The bad copy is not written; a good one in the component store is.</summary>
    [Theory]
    [InlineData("zeros", false)]
    [InlineData("zeros", true)]
    [InlineData("text", false)]
    [InlineData("text", true)]
    [InlineData("empty", false)]
    [InlineData("empty", true)]
    public void A_missing_manager_is_never_made_from_a_bad_copy(string kind, bool hasComponent)
    {
        using var scratch = new Scratch();
        using var machine = With(
            scratch,
            FirmwareKind.Bios,
            files =>
            {
                var good = files.ReadFile(Copy);
                if (hasComponent) Put(files, $@"{Component}\bootmgr", good);
                files.WriteFile(Copy, Spoiled(good, kind));
            },
            system => system.Delete(Manager));
        var plan = Plan.For(machine, RepairTerms.Usual);
        if (hasComponent)
        {
            plan.After.Verdict.ShouldBe(Verdict.Sound);
            plan.Changes.Any.ShouldBeTrue();
        }
        else
        {
            plan.Changes.Any.ShouldBeFalse();
            plan.Refused.ShouldContain(refusal => refusal.Why.Id == "left.copies-damaged");
        }
    }

    /// <summary>The component store keeps deltas and other versions under the files' own names.</summary>
    [Theory]
    [InlineData(FirmwareKind.Bios, "delta")]
    [InlineData(FirmwareKind.Bios, "other version")]
    [InlineData(FirmwareKind.Uefi, "delta")]
    [InlineData(FirmwareKind.Uefi, "other version")]
    public void What_is_only_staged_is_never_taken(FirmwareKind firmware, string kind)
    {
        using var scratch = new Scratch();
        var isBios = firmware == FirmwareKind.Bios;
        var staged = kind == "delta" ? [.. "DCM\u0001PA30"u8, .. new byte[9000], 7]
            : isBios ? StandInManager.MakeBios("10.0.22631.1")
            : StandInManager.MakeEfi("bootmgfw.efi", "10.0.22631.1");
        using var machine = With(
            scratch,
            firmware,
            files =>
            {
                files.WriteFile(isBios ? Copy : EfiCopy, new byte[4096]);
                Put(files, $@"{Component}\{(isBios ? "bootmgr" : "bootmgfw.efi")}", staged);
            },
            system =>
            {
                system.Delete(isBios ? Manager : BootFiles.Uefi.ManagerPath);
                if (!isBios) system.Delete(FallbackFile.PathFor(null));
            });
        Plan.For(machine, RepairTerms.Usual).Changes.Any.ShouldBeFalse();
    }

    [Theory]
    [InlineData("zeros")]
    [InlineData("text")]
    [InlineData("empty")]
    [InlineData("cut")]
    [InlineData("flipped")]
    [InlineData("arm64")]
    public void A_manager_of_uefi_comes_from_its_twin_where_the_copy_is_bad(string kind)
    {
        using var scratch = new Scratch();
        using var machine = With(
            scratch,
            FirmwareKind.Uefi,
            files => files.WriteFile(EfiCopy, Spoiled(files.ReadFile(EfiCopy), kind)),
            system => system.Delete(BootFiles.Uefi.ManagerPath));
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps.ShouldHaveSingleItem().Summary.Id.ShouldBe("step.renew-from-twin");
        plan.After.Verdict.ShouldBe(Verdict.Sound);
    }

    [Theory]
    [InlineData("cut")]
    [InlineData("flipped")]
    [InlineData("arm64")]
    [InlineData("text")]
    public void Where_every_copy_is_bad_nothing_is_written(string kind)
    {
        using var scratch = new Scratch();
        using var machine = With(
            scratch,
            FirmwareKind.Uefi,
            files => files.WriteFile(EfiCopy, Spoiled(files.ReadFile(EfiCopy), kind)),
            system =>
            {
                var twin = system.ReadFile(FallbackFile.PathFor(null));
                system.WriteFile(FallbackFile.PathFor(null), Spoiled(twin, kind));
                system.Delete(BootFiles.Uefi.ManagerPath);
            });
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Changes.Any.ShouldBeFalse();
        plan.Refused.ShouldContain(refusal => refusal.Why.Id == "left.copies-damaged");
        machine.RestoreUntouched();
        Should.Throw<RefusedException>(() => FileRequests.Renew(
            machine,
            null,
            new RenewTerms([], null, null, All: true),
            RepairTerms.Usual));
    }

    [Theory]
    [InlineData("text")]
    [InlineData("cut")]
    [InlineData("flipped")]
    public void A_bad_manager_of_a_folder_is_refused(string kind)
    {
        using var scratch = new Scratch();
        using var machine = With(scratch, FirmwareKind.Uefi, files => { });
        var good = machine.Installations[0].Volume.Files!.ReadFile(EfiCopy);
        Directory.CreateDirectory(scratch["medium/Windows/Boot/EFI"]);
        File.WriteAllBytes(scratch["medium/Windows/Boot/EFI/bootmgfw.efi"], Spoiled(good, kind));
        Should.Throw<RefusedException>(() => FileRequests.Renew(
            machine,
            null,
            new RenewTerms([], new FolderTree(scratch["medium"]), null, All: false),
            RepairTerms.Usual)).Why.ShouldContain("not a sound boot manager");
        machine.StartDisk.Overlay.Changes().Any.ShouldBeFalse();
    }

    /// <summary>A catalog whose signature does not fit proves nothing, whatever it lists.</summary>
    [Fact]
    public void A_catalog_that_was_altered_proves_nothing()
    {
        byte[] file = [1, 2, 3];
        var catalog = PracticeCatalog.Of([file], new DateTimeOffset(2026, 3, 2, 0, 0, 0, TimeSpan.Zero));
        var digests = CatalogSearch.DigestsOf(file);
        Catalog.TryRead(catalog)!.Digests.ShouldHaveSingleItem().ShouldBe(digests[0]);
        for (var at = 0; at < catalog.Length; at += 3)
        {
            var altered = catalog.ToArray();
            altered[at] ^= 0x10;
            if (Catalog.TryRead(altered) is { } read && read.Digests.Any(digest => !digest.AsSpan().SequenceEqual(digests[0])))
                throw new InvalidOperationException($"byte {at}: a digest that nobody signed");
            _ = Catalog.TryRead(catalog.AsSpan(0, at));
        }
    }

    /// <summary>OpenSSL reads the practice catalog, and its signature.</summary>
    [Fact]
    public async Task A_practice_catalog_is_signed_as_others_see_it()
    {
        using var scratch = new Scratch();
        var made = new DateTimeOffset(2026, 3, 2, 0, 0, 0, TimeSpan.Zero);
        File.WriteAllBytes(scratch["it.cat"], PracticeCatalog.Of([[1, 2, 3]], made));
        (await Tool.MustAgree("openssl", "pkcs7", "-inform", "DER", "-in", scratch["it.cat"], "-print_certs", "-noout"))
            .ShouldContain("Brackwater Ferries practice signing");
        string[] verify = ["cms", "-verify", "-noverify", "-inform", "DER", "-in", scratch["it.cat"], "-binary"];
        await Tool.MustAgree("openssl", [.. verify, "-out", scratch["list"]]);
    }

    private static Machine With(
        Scratch scratch,
        FirmwareKind firmware,
        Action<IVolume> change,
        Action<IVolume>? changeSystem = null)
    {
        var disk = scratch["disk.img"];
        PracticeImage.Make(disk, new PracticeSpec { Firmware = firmware }, Faults.Find("none"));
        PracticeDisk.Change(disk, machine => machine.Installations[0].Volume.Edit(change));
        PracticeDisk.Change(disk, machine => machine.SystemVolume!.Edit(changeSystem ?? (_ => { })));
        return Machine.Open(disk);
    }

    private static void Put(IVolume files, string path, byte[] bytes)
    {
        files.CreateFolder(VolumeExtensions.FolderOf(path));
        files.WriteFile(path, bytes);
    }

    private static void Flip(IVolume files, string path, int at)
    {
        var bytes = files.ReadFile(path);
        bytes[at < 0 ? bytes.Length + at : at] ^= 1;
        files.WriteFile(path, bytes);
    }

    private static byte[] Spoiled(byte[] good, string kind) => kind switch
    {
        "zeros" => new byte[good.Length],
        "text" => System.Text.Encoding.ASCII.GetBytes(new string('x', good.Length)),
        "empty" => [],
        "cut" => good[..(good.Length / 2)],
        "arm64" => StandInManager.MakeEfi("bootmgfw.efi", "10.0.19045.1", System.Reflection.PortableExecutable.Machine.Arm64),
        _ => [.. good[..5000], (byte)(good[5000] ^ 1), .. good[5001..]]
    };
}

using System.Buffers.Binary;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Programs;
using Keel.Core.Volumes;

namespace Keel.Core.Tests;

/// <summary>Start files without a signature of their own are held against catalogs, where that is cheap and tells.</summary>
public sealed class SignedStartFileTests
{
    private const string System32 = @"\Windows\System32", Catalogs = $@"\Windows\{CatalogSearch.Folder}";

    [Fact]
    public void Without_a_copy_that_is_listed_it_is_a_note_and_the_chain_is_sound()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            Alter(files, $@"{System32}\drivers\volsnap.sys");
            foreach (var package in files.List($@"{System32}\DriverStore\FileRepository"))
                if (package.Name.StartsWith("volsnap", StringComparison.Ordinal))
                    files.Delete($@"{System32}\DriverStore\FileRepository\{package.Name}\volsnap.sys");
        });
        var walk = Walk.Of(practice.Machine);
        walk.Verdict.ShouldBe(Verdict.Sound);
        var finding = walk.Findings.Single(finding => finding.Id == "driver-in-no-catalog");
        finding.File!.Path.ShouldEndWith("volsnap.sys");
        Plan.For(practice.Machine, RepairTerms.Usual).Steps.ShouldBeEmpty();
    }

    [Fact]
    public void Where_most_files_are_in_no_catalog_nothing_is_said()
    {
        using var practice = new Practice("kernel-altered-quietly");
        practice.ChangeWindows(files =>
        {
            foreach (var file in files.List(Catalogs)) files.Delete($@"{Catalogs}\{file.Name}");
            files.WriteFile($@"{Catalogs}\odd.cat", PracticeCatalog.Of([[1, 2, 3]], DateTimeOffset.UnixEpoch));
        });
        Walk.Of(practice.Machine).Findings.ShouldNotContain(finding =>
            finding.Id.Contains("catalog", StringComparison.Ordinal) || finding.Id.Contains("quietly", StringComparison.Ordinal));
    }

    [Fact]
    public void Where_catalogs_are_many_a_diagnosis_leaves_them_alone()
    {
        using var practice = new Practice("kernel-altered-quietly");
        practice.ChangeWindows(files => files.WriteFile($@"{Catalogs}\large.cat", new byte[5 * 1024 * 1024]));
        Walk.Of(practice.Machine).Findings.ShouldNotContain(finding => finding.Id == "kernel-altered-quietly");
    }

    [Fact]
    public void A_catalog_that_was_damaged_is_replaced_and_another_of_the_same_name_is_not()
    {
        using var practice = new Practice("driver-catalog-gone");
        practice.ChangeWindows(files => files.WriteFile($@"{Catalogs}\oem7.cat", new byte[2_000]));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        practice.Machine.Installations[0].Volume.Files!.ReadFile($@"{Catalogs}\oem7.cat").Length.ShouldNotBe(2_000);

        var other = PracticeCatalog.Of([[1, 2, 3]], DateTimeOffset.UnixEpoch);
        practice.ChangeWindows(files => files.WriteFile($@"{Catalogs}\oem7.cat", other));
        Plan.For(practice.Machine, RepairTerms.Usual).After.Verdict.ShouldBe(Verdict.Sound);
        practice.Machine.Installations[0].Volume.Files!.ReadFile($@"{Catalogs}\oem7.cat").ShouldBe(other);
        practice.Machine.Installations[0].Volume.Files!.FileExists($@"{Catalogs}\tidegauge.cat").ShouldBeTrue();
    }

    [Fact]
    public void A_controllers_driver_that_its_own_catalog_does_not_list_is_not_installed()
    {
        using var practice = new Practice("controller-driver-absent");
        const string file = $@"{System32}\DriverStore\FileRepository\quayraid.inf_amd64_b4ac0219\quayraid.sys";
        practice.ChangeWindows(files => Alter(files, file));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Steps.ShouldBeEmpty();
        plan.Refused.ShouldHaveSingleItem().Why.Id.ShouldBe("left.controller-not-staged");
    }

    [Fact]
    public void A_driver_that_the_database_does_not_have_is_never_called_sound()
    {
        using var practice = new Practice("controller-driver-absent");
        practice.ChangeWindows(files => files.WriteFile(
            $@"{System32}\config\DRIVERS",
            PracticeHives.DeviceDatabase(DateTimeOffset.UnixEpoch, ["storahci.inf_amd64_b4ac0042"])));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Steps.ShouldHaveSingleItem().IsGuess.ShouldBeTrue();
        plan.After.Verdict.ShouldBe(Verdict.Doubtful);
        plan.After.Findings.Select(finding => finding.Id).ShouldBe(["controller-driver-not-proven"]);
    }

    private static void Alter(IVolume files, string path)
    {
        var bytes = files.ReadFile(path);
        bytes[2_000] ^= 1;
        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(0xD8), StandInProgram.Checksum(bytes));
        files.Delete(path);
        files.WriteFile(path, bytes);
    }
}

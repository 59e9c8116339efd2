using Keel.Core.Drills;
using Keel.Core.Hives;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Tests;

/// <summary>Installations are found by their signs, whatever else lies on the volume and whatever they have lost.</summary>
public sealed class InstallationTests
{
    private const string Config = @"System32\config";

    [Fact]
    public void The_one_of_a_practice_machine_is_found_whole()
    {
        using var practice = new Practice();
        var found = InstallationFinder.Find(practice.Windows).ShouldHaveSingleItem();
        (found.Folder, found.Product, found.Build, found.HasLoader, found.IsNt5)
            .ShouldBe((@"\Windows", "Windows 10 Pro", 19045, true, false));
        found.ToString().ShouldBe(@"Windows 10 Pro in \Windows on volume 2");
    }

    [Theory]
    [InlineData("", 2)]
    [InlineData(@"System32\config\SYSTEM", 2)]
    [InlineData(@"System32\config\SYSTEM, System32\config\SOFTWARE", 2)]
    [InlineData(@"System32\ntoskrnl.exe, System32\config\SYSTEM", 2)]
    [InlineData(@"System32\config\SYSTEM, System32\config\SOFTWARE, System32\ntoskrnl.exe, System32\winload.exe", 1)]
    public void Two_signs_are_enough(string lost, int expected)
    {
        using var practice = new Practice();
        practice.Edit(files =>
        {
            files.CreateFolder(@"\Windows.old\System32\config");
            files.WriteFile(@"\Windows.old\System32\config\SYSTEM", [1]);
            files.WriteFile(@"\Windows.old\System32\ntoskrnl.exe", [1]);
            foreach (var path in lost.Split(", ", StringSplitOptions.RemoveEmptyEntries)) files.Delete($@"\Windows\{path}");
        });
        InstallationFinder.Find(practice.Windows).Count.ShouldBe(expected);
    }

    [Fact]
    public void Folders_that_only_look_alike_are_none()
    {
        using var practice = new Practice();
        practice.Edit(files =>
        {
            files.CreateFolder($@"\Empty\{Config}");
            files.CreateFolder(@"\Tools\System32");
            files.WriteFile(@"\Tools\System32\ntoskrnl.exe", [1]);
            files.WriteFile(@"\Tools\System32\winload.exe", [1]);
            files.WriteFile(@"\Winnt", [1]);
            files.CreateFolder($@"\Half\{Config}\SYSTEM");
            files.CreateFolder($@"\Half\{Config}\SOFTWARE");
        });
        InstallationFinder.Find(practice.Windows).ShouldHaveSingleItem().Folder.ShouldBe(@"\Windows");
    }

    [Theory]
    [InlineData("Windows 10 Pro", 22631, "Windows 11 Pro")]
    [InlineData("Windows 10 Pro", 19045, "Windows 10 Pro")]
    [InlineData("Windows Server 2022 Standard", 20348, "Windows Server 2022 Standard")]
    [InlineData("Windows 7 Professional", 7601, "Windows 7 Professional")]
    public void The_product_is_the_one_that_people_know(string written, int build, string expected)
    {
        using var practice = new Practice();
        var software = PracticeHives.Software(new PracticeSpec { Product = written, Build = build });
        practice.Edit(files => files.WriteFile($@"\Windows\{Config}\SOFTWARE", software));
        var found = InstallationFinder.Find(practice.Windows)[0];
        (found.Product, found.Build).ShouldBe((expected, build));
    }

    [Theory]
    [InlineData(0)]
    [InlineData(100)]
    [InlineData(4096)]
    [InlineData(8192)]
    public void A_damaged_software_hive_costs_the_name_and_nothing_else(int keptBytes)
    {
        using var practice = new Practice();
        var software = PracticeHives.Software(new PracticeSpec());
        practice.Edit(files => files.WriteFile(
            $@"\Windows\{Config}\SOFTWARE",
            [.. software.Take(keptBytes), .. new byte[Math.Max(0, software.Length - keptBytes)]]));
        var found = InstallationFinder.Find(practice.Windows).ShouldHaveSingleItem();
        if (keptBytes < software.Length) (found.Product, found.Build).ShouldBe(("Windows", 0));
        found.IsNt5.ShouldBeFalse();
    }

    [Theory]
    [InlineData(2600, true)]
    [InlineData(3790, true)]
    [InlineData(6000, false)]
    [InlineData(6002, false)]
    public void The_build_tells_nt_5_from_later_ones(int build, bool isNt5)
    {
        using var practice = new Practice();
        var software = PracticeHives.Software(new PracticeSpec { Build = build });
        practice.Edit(files => files.WriteFile($@"\Windows\{Config}\SOFTWARE", software));
        InstallationFinder.Find(practice.Windows)[0].IsNt5.ShouldBe(isNt5);
    }

    [Fact]
    public void The_usual_folder_comes_first_and_the_others_in_their_order()
    {
        using var practice = new Practice();
        practice.Edit(files =>
        {
            foreach (var name in (string[])["Abc", "Windows.old", "ZZ"])
            {
                files.CreateFolder($@"\{name}\{Config}");
                files.WriteFile($@"\{name}\{Config}\SYSTEM", [1]);
                files.WriteFile($@"\{name}\System32\winload.exe", [1]);
            }
        });
        InstallationFinder.Find(practice.Windows).Select(found => found.Folder)
            .ShouldBe([@"\Windows", @"\Abc", @"\Windows.old", @"\ZZ"]);
    }

    [Fact]
    public void A_volume_without_a_file_system_has_none()
    {
        using var practice = new Practice();
        var partition = practice.Windows.Partition;
        practice.Windows.Blocks.Write(0, new byte[512]);
        using var volume = new DiskVolume(
            practice.Path,
            practice.Machine.StartDisk.Overlay,
            practice.Machine.StartDisk.Layout,
            partition);
        InstallationFinder.Find(volume).ShouldBeEmpty();
        InstallationFinder.TryKey(practice.System.Files!, @"\no\such\hive", "Select").ShouldBeNull();
    }

    [Fact]
    public void A_key_is_found_through_a_hive_on_the_volume()
    {
        using var practice = new Practice();
        var files = practice.Windows.Files!;
        InstallationFinder.TryKey(files, $@"\Windows\{Config}\SYSTEM", "Select").ShouldNotBeNull()
            .Value("Current")!.AsNumber().ShouldBe(1u);
        InstallationFinder.TryKey(files, $@"\Windows\{Config}\SYSTEM", "Selected").ShouldBeNull();
        var baseBlock = files.OpenFile($@"\Windows\{Config}\SYSTEM").ReadBytesOf(HiveHeader.Size);
        HiveHeader.TryRead(baseBlock).ShouldNotBeNull().IsClean.ShouldBeTrue();
    }
}

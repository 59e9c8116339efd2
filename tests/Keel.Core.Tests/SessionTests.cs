using Keel.Core.Chain;
using Keel.Core.Hives;
using Keel.Core.Mending;
using Keel.Core.Volumes;

namespace Keel.Core.Tests;

/// <summary>Odd but sound: what a real Windows looks like behind the kernel, and is no finding.</summary>
public sealed class SessionTests
{
    private const string Config = @"\Windows\System32\config";

    [Fact]
    public void A_server_without_a_desktop_lacks_none()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            files.Delete(@"\Windows\explorer.exe");
            Edit(files, "SOFTWARE", root => Version(root).Set(HiveValue.OfText("InstallationType", "Server Core")));
        });
        Findings(practice).ShouldBeEmpty();
    }

    [Fact]
    public void A_machine_prepared_for_imaging_goes_on_with_its_setup()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files => Edit(files, "SYSTEM", root =>
        {
            var setup = root.Child("Setup")!;
            setup.Children.Clear();
            setup.Set(HiveValue.OfNumber("SystemSetupInProgress", 1))
                .Set(HiveValue.OfNumber("SetupType", 2))
                .Set(HiveValue.OfText("CmdLine", @"oobe\windeploy.exe"));
        }));
        Findings(practice).ShouldBeEmpty();
        Walk.Of(practice.Machine).Findings.Select(finding => finding.Id).ShouldContain("setup-pending");
    }

    [Fact]
    public void What_an_old_repair_left_of_a_profile_is_nothing()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files => Edit(files, "SOFTWARE", root => Version(root)
            .ChildOrNew("ProfileList")
            .ChildOrNew("S-1-5-21-1-2-3-1009.bak")
            .Set(HiveValue.OfText("ProfileImagePath", @"C:\Users\deckhand"))));
        Findings(practice).ShouldBeEmpty();
    }

    [Fact]
    public void A_windows_with_hardly_a_file_of_a_session_is_not_judged_by_it()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            foreach (var file in files.List(@"\Windows\System32").Where(file => !file.IsFolder).ToList())
            {
                if (file.Name is not ("winload.exe" or "ntoskrnl.exe" or "hal.dll" or "kdcom.dll" or "ci.dll" or "userinit.exe"))
                    files.Delete($@"\Windows\System32\{file.Name}");
            }
        });
        Findings(practice).ShouldBeEmpty();
    }

    [Fact]
    public void One_of_before_windows_7_has_fewer_libraries()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            foreach (var name in (string[])["KernelBase.dll", "sechost.dll", "apisetschema.dll"])
                files.Delete($@"\Windows\System32\{name}");
            Edit(files, "SOFTWARE", root => Version(root)
                .Set(HiveValue.OfText("CurrentBuildNumber", "6002"))
                .Set(HiveValue.OfText("CurrentBuild", "6002")));
        });
        Findings(practice).ShouldBeEmpty();
    }

    /// <summary>Letters of before stay in the list: Windows has its own among them.</summary>
    [Fact]
    public void A_volume_with_two_letters_has_its_own()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files => Edit(files, "SYSTEM", root =>
        {
            var mounted = root.Child("MountedDevices")!;
            var own = mounted.Value(@"\DosDevices\C:")!.Data;
            mounted.Values.Insert(0, HiveValue.OfBinary(@"\DosDevices\B:", own));
        }));
        Findings(practice).ShouldBeEmpty();
    }

    private static IEnumerable<string> Findings(Practice practice) => Plan.For(practice.Machine, RepairTerms.Usual).Findings
        .Where(finding => finding.Kind.Severity != Severity.Note)
        .Select(finding => $"{finding.Id}: {finding.Seen}");

    private static HiveNode Version(HiveNode root) =>
        root.Child("Microsoft")!.Child("Windows NT")!.Child("CurrentVersion")!;

    private static void Edit(IVolume files, string name, Action<HiveNode> change)
    {
        var path = $@"{Config}\{name}";
        var root = Hive.Open(files.ReadFile(path)).ReadTree();
        change(root);
        files.WriteFile(path, HiveWriter.Write(root, minor: 5));
    }
}

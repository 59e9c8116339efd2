using System.Text;
using CsCheck;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Layout;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Programs;
using Keel.Core.Requests;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>What starts by itself: found, switched off and on to the byte, and the culprit among them found.</summary>
public sealed class StartupProgramTests
{
    private const string Software = @"\Windows\System32\config\SOFTWARE", Home = @"\Users\purser";
    private const string Menu = Home + @"\AppData\Roaming\Microsoft\Windows\Start Menu\Programs\Startup";

    [Fact]
    public void Those_of_everybody_of_users_and_of_folders_are_found()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            files.CreateFolder(Menu);
            files.WriteFile($@"{Menu}\radio.lnk", [1, 2, 3]);
            files.WriteFile($@"{Menu}\desktop.ini", [1]);
        });
        var found = ProgramRequests.List(practice.Machine);
        found.Select(program => (program.Name, program.User, program.IsOn, program.IsThere)).ShouldBe(
        [
            ("Tide clock", null, true, true),
            ("Ticket printer", null, true, false),
            ("Deck radio", "purser", true, true),
            ("radio.lnk", "purser", true, true)
        ]);
        found[0].File.ShouldBe(@"\Windows\tideclock.exe");
    }

    [Fact]
    public async Task Who_signed_a_program_is_told_and_a_signature_that_does_not_fit()
    {
        using var practice = new Practice();
        using var scratch = new Scratch();
        const string path = @"\Windows\tideclock.exe";
        StartupProgram Found() => ProgramRequests.List(practice.Machine).First(program => program.Name == "Tide clock");
        (Found().Signer, Found().IsSignatureBroken).ShouldBe((null, false));
        var signed = await ProgramTests.Sign(scratch, practice.Windows.Files!.ReadFile(path));
        practice.ChangeWindows(files => files.WriteFile(path, signed));
        (Found().Signer, Found().IsSignatureBroken).ShouldBe(("Brackwater Ferries practice", false));
        var altered = signed.ToArray();
        altered[1500] ^= 1;
        practice.ChangeWindows(files => files.WriteFile(path, altered));
        (Found().Signer, Found().IsSignatureBroken).ShouldBe((null, true));
    }

    [Theory]
    [InlineData("Tide clock")]
    [InlineData("Deck radio")]
    [InlineData("radio.lnk")]
    public void What_is_switched_off_comes_back_as_it_was(string name)
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            files.CreateFolder(Menu);
            files.WriteFile($@"{Menu}\radio.lnk", [1, 2, 3]);
        });
        var (software, user) = Hives(practice);
        var off = ProgramRequests.Change(practice.Machine, name, on: false);
        off.After.Verdict.ShouldBe(Verdict.Sound);
        var program = ProgramRequests.Pick(ProgramRequests.List(practice.Machine), name);
        (program.IsOn, program.IsOffByWindows).ShouldBe((false, false));
        practice.Windows.Files!.FileExists($@"{Menu}\radio.lnk").ShouldBe(name != "radio.lnk");
        KeepsOff(practice, off);

        ProgramRequests.Change(practice.Machine, name, on: true);
        ProgramRequests.Pick(ProgramRequests.List(practice.Machine), name).IsOn.ShouldBeTrue();
        var (softwareAfter, userAfter) = Hives(practice);
        softwareAfter.ShouldHold(software);
        userAfter.ShouldHold(user);
        practice.Windows.Files!.ReadFile($@"{Menu}\radio.lnk").ShouldBe([1, 2, 3]);
    }

    [Fact]
    public void What_Windows_has_switched_off_is_told_and_can_be_switched_on()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files => files.WriteFile(Software, WithApproved(files.ReadFile(Software), state: 3)));
        var program = ProgramRequests.Pick(ProgramRequests.List(practice.Machine), "Tide clock");
        (program.IsOn, program.IsOffByWindows).ShouldBe((false, true));
        ProgramRequests.Change(practice.Machine, "Tide clock", on: true);
        ProgramRequests.Pick(ProgramRequests.List(practice.Machine), "Tide clock").IsOn.ShouldBeTrue();
    }

    /// <summary>A broken store says nothing of Windows, and there is only one.</summary>
    [Fact]
    public void Where_no_entry_leads_to_it_the_only_Windows_is_meant()
    {
        using var practice = new Practice("store-missing");
        ProgramRequests.List(practice.Machine).Count.ShouldBe(3);
        ProgramRequests.Change(practice.Machine, "Deck radio", on: false);
        ProgramRequests.Pick(ProgramRequests.List(practice.Machine), "Deck radio").IsOn.ShouldBeFalse();
    }

    [Theory]
    [InlineData("1", "Tide clock")]
    [InlineData("deck", "Deck radio")]
    [InlineData("TICKET PRINTER", "Ticket printer")]
    public void One_is_named_by_number_or_name(string words, string name)
    {
        using var practice = new Practice();
        ProgramRequests.Pick(ProgramRequests.List(practice.Machine), words).Name.ShouldBe(name);
    }

    [Theory]
    [InlineData("0")]
    [InlineData("99")]
    [InlineData("T")]
    [InlineData("nobody")]
    public void What_names_none_or_several_is_refused(string words)
    {
        using var practice = new Practice();
        Should.Throw<WrongUsageException>(() => ProgramRequests.Pick(ProgramRequests.List(practice.Machine), words));
    }

    [Theory]
    [InlineData("\"C:\\Windows\\tideclock.exe\" /quiet", @"\Windows\tideclock.exe")]
    [InlineData(@"C:\Windows\tideclock.exe /quiet", @"\Windows\tideclock.exe")]
    [InlineData(@"%SystemRoot%\tideclock.exe", @"\Windows\tideclock.exe")]
    [InlineData(@"%windir%\tideclock", @"\Windows\tideclock.exe")]
    [InlineData("tideclock", @"\Windows\tideclock.exe")]
    [InlineData("userinit.exe", @"\Windows\System32\userinit.exe")]
    [InlineData(@"C:\Program Files\With blanks\x.exe -y", @"\Program Files\With blanks\x.exe")]
    [InlineData(@"D:\x.exe", null)]
    [InlineData(@"\\server\share\x.exe", null)]
    [InlineData("", null)]
    [InlineData("\"", @"\Windows\System32\")]
    public void A_command_leads_to_a_file(string command, string? file)
    {
        using var practice = new Practice();
        var paths = new ProgramPaths(practice.Windows.Files!, @"\Windows", 'C');
        paths.Of(command).ShouldBe(file);
    }

    /// <summary>Whoever it is among however many: it is found in as few starts as can be.</summary>
    [Fact]
    public void The_one_that_does_harm_is_found_in_few_starts() => Gen.Select(Gen.Int[1, 200], Gen.Int[0, 199])
        .Sample((count, number) =>
        {
            var all = Enumerable.Range(0, count).Select(index => $"program {index}").ToList();
            var culprit = number < count ? all[number] : null;
            var halving = SuspectSearch.Of(all);
            var starts = 0;
            while (!halving.IsFound && !halving.IsNone)
            {
                starts++;
                halving = halving.After(startedWell: culprit is not null && halving.Off.Contains(culprit));
                halving.Off.Except(halving.Suspects).ShouldBeEmpty();
            }

            if (culprit is not null) halving.Suspects.ShouldBe([culprit]);
            starts.ShouldBeLessThanOrEqualTo((int)Math.Ceiling(Math.Log2(count)) + 1);
        });

    [Fact]
    public void A_search_is_remembered_and_forgotten()
    {
        using var scratch = new Scratch();
        var file = new SuspectSearchFile(scratch["logbook"], DiskIdentity.OfMbr(0xB4AC0042));
        file.Read().ShouldBeNull();
        var halving = SuspectSearch.Of(["RunKey|a|b|one", "Folder|c||two", "Service|s||three"]).After(startedWell: false);
        file.Write(halving);
        var again = file.Read().ShouldNotBeNull();
        again.All.ShouldBe(halving.All);
        again.Suspects.ShouldBe(halving.Suspects);
        again.Off.ShouldBe(halving.Off);
        new SuspectSearchFile(scratch["logbook"], DiskIdentity.OfMbr(1)).Read().ShouldBeNull("another disk");
        file.Forget();
        file.Read().ShouldBeNull();
    }

    public static TheoryData<string, string, string?> Logons() => new()
    {
        { "Shell", "explorer.exe", null },
        { "Shell", "EXPLORER.EXE ", null },
        { "Shell", @"C:\Windows\tideclock.exe", "logon-shell-other" },
        { "Shell", "tideclock.exe /kiosk", "logon-shell-other" },
        { "Shell", @"D:\kiosk.exe", "logon-shell-other" },
        { "Shell", "explorer.exe, helper.exe", "logon-shell-other" },
        { "Shell", @"C:\gone.exe", "logon-shell-wrong" },
        { "Userinit", @"C:\WINDOWS\System32\USERINIT.EXE", null },
        { "Userinit", "userinit,", null },
        { "Userinit", @"C:\Windows\system32\userinit.exe,C:\Windows\tideclock.exe", null },
        { "Userinit", @"C:\Windows\system32\userinit.exe,C:\gone.exe", "userinit-wrong" },
        { "Userinit", @"C:\Windows\tideclock.exe", "userinit-wrong" },
        { "Userinit", ",,", "userinit-wrong" }
    };

    [Theory, MemberData(nameof(Logons))]
    public void What_is_run_before_the_desktop_is_judged(string name, string text, string? finding)
    {
        using var practice = new Practice();
        practice.ChangeWindows(files => RegistryChanges.SetData(
            files,
            Software,
            LogonSettings.WinlogonKey,
            name,
            Encoding.Unicode.GetBytes(text + '\0')));
        Walk.Of(practice.Machine).Findings.Select(found => found.Id).ShouldBe(finding is null ? [] : [finding]);
    }

    [Theory]
    [InlineData("autocheck autochk /r \\??\\C:\0autocheck autochk *", null)]
    [InlineData("autocheck autochk *\0userinit", "boot-execute-other")]
    [InlineData("sweep /now", "boot-execute-wrong")]
    public void What_the_session_manager_runs_is_judged(string list, string? finding)
    {
        using var practice = new Practice();
        practice.ChangeWindows(files => RegistryChanges.SetData(
            files,
            @"\Windows\System32\config\SYSTEM",
            $@"ControlSet001\{LogonSettings.SessionKey}",
            "BootExecute",
            Encoding.Unicode.GetBytes(list + "\0\0")));
        Walk.Of(practice.Machine).Findings.Select(found => found.Id).ShouldBe(finding is null ? [] : [finding]);
    }

    /// <summary>Values of a megabyte, of nothing but blanks or commas, and thousands of them: judged, and soon.</summary>
    [Theory]
    [InlineData("Shell", ' ', "x")]
    [InlineData("Shell", 'x', "")]
    [InlineData("Userinit", ',', "gone.exe")]
    public void Absurd_values_are_judged_in_bounded_time(string name, char letter, string end)
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            var root = Core.Hives.Hive.Open(files.ReadFile(Software)).ReadTree();
            var winlogon = root.Child("Microsoft")!.Child("Windows NT")!.Child("CurrentVersion")!.Child("Winlogon")!;
            winlogon.Set(HiveValue.OfText(name, string.Concat(Enumerable.Repeat($"{letter}a", 200_000)) + end));
            var run = root.Child("Microsoft")!.Child("Windows")!.Child("CurrentVersion")!.Child("Run")!;
            foreach (var number in Enumerable.Range(0, 3000)) run.Set(HiveValue.OfText($"v{number}", "a b c d e f"));
            files.WriteFile(Software, HiveWriter.Write(root, minor: 5));
        });
        var clock = System.Diagnostics.Stopwatch.StartNew();
        var found = Walk.Of(practice.Machine).Findings.First(finding => finding.Id.StartsWith(
            name == "Shell" ? "logon-shell" : "userinit",
            StringComparison.Ordinal));
        $"{found.Seen}".Length.ShouldBeLessThan(1000);
        ProgramRequests.List(practice.Machine).Count.ShouldBe(2000);
        clock.Elapsed.ShouldBeLessThan(TimeSpan.FromSeconds(60));
    }

    private static (byte[] Software, byte[] User) Hives(Practice practice) =>
        (practice.Windows.Files!.ReadFile(Software), practice.Windows.Files!.ReadFile($@"{Home}\NTUSER.DAT"));

    /// <summary>Planning takes its changes back at the next plan, so what was planned is written first.</summary>
    private static void KeepsOff(Practice practice, Plan plan)
    {
        var changes = plan.Changes.Disks[0].Changes;
        practice.Change(machine =>
        {
            foreach (var range in changes.Ranges)
            {
                var bytes = new byte[range.Length];
                changes.CopyAfter(range, bytes);
                machine.StartDisk.Overlay.Write(range.Start, bytes);
            }
        });
    }

    private static byte[] WithApproved(byte[] software, byte state)
    {
        var root = Core.Hives.Hive.Open(software).ReadTree();
        root.ChildOrNew("Microsoft").ChildOrNew("Windows").ChildOrNew("CurrentVersion").ChildOrNew("Explorer")
            .ChildOrNew("StartupApproved").ChildOrNew("Run")
            .Set(HiveValue.OfBinary("Tide clock", [state, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]));
        return HiveWriter.Write(root, minor: 5);
    }
}

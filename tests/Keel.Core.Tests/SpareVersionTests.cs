using System.Reflection.PortableExecutable;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Hives;
using Keel.Core.Mending;
using Keel.Core.Volumes;

namespace Keel.Core.Tests;

/// <summary>Of several versions of a program, the one that stood there comes back; a staged one only where no other is.</summary>
public sealed class SpareVersionTests
{
    private const string Kernel = @"\Windows\System32\ntoskrnl.exe", Software = @"\Windows\System32\config\SOFTWARE";
    private const string InForce = "10.0.19045.3000";

    [Theory]
    [InlineData("10.0.19045.2900 10.0.19045.3000 10.0.19045.3400", InForce, false)]
    [InlineData("10.0.19045.2900 10.0.19045.3400", "10.0.19045.2900", false)]
    [InlineData("10.0.19045.3400", "10.0.19045.3400", true)]
    public void A_missing_one_is_of_the_newest_version_in_force(string spares, string expected, bool isGuess) =>
        Restores(spares, standing: null, expected, isGuess);

    [Theory]
    [InlineData("10.0.19045.2900 10.0.19045.3000", "10.0.19045.2900", "10.0.19045.2900", false)]
    [InlineData("10.0.19045.3000", "10.0.19045.2900", InForce, false)]
    [InlineData("10.0.19045.3000 10.0.19045.3400", "10.0.19045.3000", InForce, false)]
    [InlineData("10.0.19045.3400", InForce, "10.0.19045.3400", true)]
    public void A_damaged_one_is_of_the_version_that_it_says(string spares, string standing, string expected, bool isGuess) =>
        Restores(spares, standing, expected, isGuess);

    private static void Restores(string spares, string? standing, string expected, bool isGuess)
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            var hive = Hive.Open(files.ReadFile(Software)).ReadTree();
            hive.Child("Microsoft")!.Child("Windows NT")!.Child("CurrentVersion")!.Set(HiveValue.OfNumber("UBR", 3000));
            files.WriteFile(Software, HiveWriter.Write(hive, 5));
            foreach (var component in files.List(@"\Windows\WinSxS").Where(file => file.IsFolder))
            {
                var spare = $@"\Windows\WinSxS\{component.Name}\ntoskrnl.exe";
                if (files.FileExists(spare)) files.Delete(spare);
            }

            foreach (var version in spares.Split(' '))
            {
                var path = $@"\Windows\WinSxS\amd64_kernel-of-the-line_{version}\ntoskrnl.exe";
                files.CreateFolder(VolumeExtensions.FolderOf(path));
                files.WriteFile(path, Program(version));
            }

            if (standing is null)
            {
                files.Delete(Kernel);
                return;
            }

            var damaged = Program(standing);
            damaged[^40] ^= 0xFF;
            files.WriteFile(Kernel, damaged);
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.StopsAt.ShouldBe(Link.KernelFiles);
        plan.After.Verdict.ShouldBe(isGuess ? Verdict.Doubtful : Verdict.Sound, "a kernel newer than what is in force is told");
        var step = plan.Steps.ShouldHaveSingleItem();
        step.IsGuess.ShouldBe(isGuess);
        step.Details.Any(detail => detail.Says.Id == "line.copy-staged").ShouldBe(isGuess);
        practice.Windows.Files!.ReadFile(Kernel).ShouldBe(Program(expected));
        SafePlan.Holds(practice.Machine, plan).ShouldBe(!isGuess);
    }

    private static byte[] Program(string version) =>
        StandInProgram.Make("ntoskrnl.exe", version, Subsystem.Native, imports: ["hal.dll", "kdcom.dll", "ci.dll"]);
}

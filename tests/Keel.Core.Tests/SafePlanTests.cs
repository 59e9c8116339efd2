using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Mending;

namespace Keel.Core.Tests;

/// <summary>Which plans may be carried out without anybody reading them.</summary>
public sealed class SafePlanTests
{
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

    /// <summary>The words that lines of loss begin with stand in the interface; the core knows them by name.</summary>
    [Fact]
    public void Every_plan_with_a_line_of_loss_is_left_to_people()
    {
        foreach (var fault in Faults.All.Where(fault => fault.Id.Contains("hive", StringComparison.Ordinal)))
        {
            using var practice = new Practice(fault.Id);
            var plan = Plan.For(practice.Machine, RepairTerms.Usual);
            if (plan.Steps.Any(step => step.Details.Any(line => line.Says.Id.Contains("lost", StringComparison.Ordinal))))
                SafePlan.Holds(practice.Machine, plan).ShouldBeFalse(fault.Id);
        }
    }
}

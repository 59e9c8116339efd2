using CsCheck;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Firmware;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Machines with faults by chance, a few at each run; <c>tests/campaign</c> tries thousands.</summary>
public sealed class ChanceDrillTests
{
    private static readonly Gen<(FirmwareKind Firmware, int Seed)> Drills =
        Gen.Select(Gen.Bool, Gen.Int, (isUefi, seed) => (isUefi ? FirmwareKind.Uefi : FirmwareKind.Bios, seed));

    [Fact]
    public void What_is_drawn_by_chance_can_be_mended_to_the_end() => Drills.Sample(
        drill => Try(drill, (answer, plan) =>
        {
            plan.After.Verdict.ShouldBe(Verdict.Sound, Why(answer, plan));
            plan.Steps.Count.ShouldBeGreaterThan(0, Why(answer, plan));
        }),
        iter: 12,
        threads: 1);

    [Fact]
    public void A_declined_step_is_left_out_and_nothing_gets_better_for_it() => Drills.Sample(
        drill => Try(drill, (answer, plan) =>
        {
            plan.Steps.Select(step => step.Id).Distinct().Count().ShouldBe(plan.Steps.Count, Why(answer, plan));
            foreach (var step in plan.Steps)
            {
                var less = plan.Without(step);
                less.Steps.ShouldNotContain(other => other.Id == step.Id, Why(answer, less));
                ((int)less.After.Verdict).ShouldBeGreaterThanOrEqualTo((int)plan.After.Verdict, Why(answer, less));
            }
        }),
        iter: 4,
        threads: 1);

    /// <summary>What is hidden may be gone by another fault of the same drill.</summary>
    [Fact]
    public void Faults_that_take_each_others_files_are_made_all_the_same() =>
        Try((FirmwareKind.Bios, -1390491037), (answer, plan) => plan.Steps.Count.ShouldBeGreaterThan(0, Why(answer, plan)));

    /// <summary>Random drills never draw what keel leaves to people, whatever is drawn beside it.</summary>
    [Fact]
    public void What_is_for_people_is_not_drawn() => Drills.Sample(
        drill =>
        {
            var (_, answer) = Faults.Random(drill.Firmware, new Random(drill.Seed));
            answer.Count.ShouldBeInRange(1, 3);
            answer.Distinct().Count().ShouldBe(answer.Count);
            foreach (var id in answer) Faults.Find(id).AppliesTo(drill.Firmware).ShouldBeTrue(id);
            answer.ShouldNotContain("volume-encrypted");
            answer.ShouldNotContain("clone-beside-original");
        },
        iter: 500);

    [Theory]
    [InlineData("esp-missing+mbr-code-wiped")]                      // of UEFI, and of BIOS
    [InlineData("ntldr-missing+store-missing")]                     // of NT 5, and of later machines
    public void What_can_not_be_on_one_disk_is_told(string faults) =>
        Should.Throw<WrongUsageException>(() => Faults.FindAll(faults)).What.ShouldContain("one disk");

    private static void Try((FirmwareKind Firmware, int Seed) drill, Action<IReadOnlyList<string>, Plan> judge)
    {
        using var scratch = new Scratch();
        var (fault, answer) = Faults.Random(drill.Firmware, new Random(drill.Seed));
        PracticeDisk.Make(scratch["disk"], new PracticeSpec { Firmware = drill.Firmware }, fault);
        var folder = PracticeVariables.FolderFor(scratch["disk"]);
        var variables = Directory.Exists(folder) ? FirmwareVariables.Open(folder) : null;
        using var machine = Machine.Open([scratch["disk"]], variables, startsThrough: null);
        judge(answer, Plan.For(machine, RepairTerms.Usual with { ReplaceForeign = true }));
    }

    private static string Why(IReadOnlyList<string> answer, Plan plan) => $"{string.Join('+', answer)}: "
        + string.Join("; ", plan.Refused.Select(refusal => $"{refusal.FindingId}: {refusal.Why}"));
}

using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Mending;
using Keel.Core.Store;

namespace Keel.Core.Tests;

/// <summary>Settings that were left in the started entry are found; in others they harm nobody.</summary>
public sealed class EntrySettingsTests
{
    [Theory]
    [InlineData(0x25000080u, 0, "entry-safe-start")]
    [InlineData(0x25000080u, 2, "entry-safe-start")]
    [InlineData(0x15000007u, 0x4000000, "entry-memory-withheld")]
    [InlineData(0x25000031u, 12_000, "entry-memory-withheld")]
    [InlineData(0x260000a0u, 1, "entry-debugger-let-in")]
    [InlineData(0x26000025u, 1, "entry-last-good")]
    [InlineData(0x16000049u, 1, "entry-test-signatures")]
    [InlineData(0x260000a0u, 0, null)]
    [InlineData(0x26000025u, 0, null)]
    [InlineData(0x25000031u, 0, null)]
    public void A_setting_of_the_started_entry(uint element, int value, string? expected)
    {
        using var practice = new Practice();
        Change(practice, store => Set(store.WindowsEntries[0], element, value));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.Findings.Select(finding => finding.Id).ShouldBe(expected is null ? [] : [expected]);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        plan.Steps.ShouldAllBe(step => !step.MayBeUnread);
    }

    [Theory]
    [InlineData(0x25000080u)]
    [InlineData(0x25000031u)]
    public void In_an_entry_that_is_chosen_by_hand_it_is_nobodys_mistake(uint element)
    {
        using var practice = new Practice();
        Change(practice, store =>
            Set(StoreEditing.AddLike(store, store.WindowsEntries[0], Guid.NewGuid(), "Windows, careful"), element, 1));
        Walk.Of(practice.Machine).Findings.ShouldBeEmpty();
    }

    [Theory]
    [InlineData("NTOSKRNL.EXE", null)]
    [InlineData("ntkrferry.exe", "entry-named-file-missing")]
    public void A_kernel_that_is_named(string name, string? expected)
    {
        using var practice = new Practice();
        Change(practice, store => store.WindowsEntries[0].Set(Element.KernelFile, name));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.Findings.Select(finding => finding.Id).ShouldBe(expected is null ? [] : [expected]);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
    }

    [Fact]
    public void What_is_to_be_started_once_and_is_there_stays()
    {
        using var practice = new Practice();
        Change(practice, store => store.Manager!.Set(Element.OnceOnly, [EntryId.MemoryTest]));
        Walk.Of(practice.Machine).Findings.ShouldBeEmpty();
    }

    private static void Change(Practice practice, Action<BootStore> change) =>
        practice.Change(machine => StoreFaults.EditStore(machine, change));

    private static void Set(BootEntry entry, uint element, int value)
    {
        if ((element >> 24 & 0xF) == 6) entry.Set(element, value != 0);
        else entry.Set(element, (ulong)value);
    }
}

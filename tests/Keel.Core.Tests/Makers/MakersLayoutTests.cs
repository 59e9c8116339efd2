using Keel.Core.Chain;
using Keel.Core.Mending;
using Keel.Tests;

namespace Keel.Core.Tests.Makers;

/// <summary>Machines as makers, setup and owners lay them out: none is a false alarm, and what breaks on one is mended.</summary>
public sealed class MakersLayoutTests
{
    public static TheoryData<string> Names => [.. MakersLayouts.All.Select(layout => layout.Name)];

    [Theory]
    [MemberData(nameof(Names))]
    public async Task It_is_sound(string name)
    {
        var layout = MakersLayouts.All.Single(layout => layout.Name == name);
        using var scratch = new Scratch();
        using var machine = await new MakersMachine(layout, scratch).Make();
        var plan = Plan.For(machine, RepairTerms.Usual);
        var found = plan.Findings
            .Where(finding => finding.Kind.Severity != Severity.Note)
            .Select(finding => $"{finding.Id}: {finding.Seen}")
            .ToList();
        found.Select(finding => finding[..finding.IndexOf(':', StringComparison.Ordinal)])
            .Distinct()
            .ShouldBe(layout.Expected, string.Join('\n', found));
        plan.Steps.ShouldBeEmpty();
        if (layout.Expected.Length == 0) plan.Before.Verdict.ShouldBe(Verdict.Sound);
    }

    /// <summary>A fault for each, in turn; where there are two Windows, the other one starts when an entry is gone.</summary>
    public static TheoryData<string, string> Broken
    {
        get
        {
            string[] faults = ["store", "manager", "loader", "entry"];
            var rows = new TheoryData<string, string>();
            foreach (var (layout, number) in MakersLayouts.All.Select((layout, number) => (layout, number)))
            {
                var text = string.Concat(layout.Disks);
                if (layout.Expected.Length > 0 || text.Contains("medium", StringComparison.Ordinal)) continue;
                var windows = text.Split(" windows").Length + text.Split(">windows").Length - 2;
                rows.Add(layout.Name, faults[number % (windows > 1 ? 3 : 4)]);
            }

            return rows;
        }
    }

    [Theory]
    [MemberData(nameof(Broken))]
    public async Task What_breaks_on_it_is_mended(string name, string fault)
    {
        var layout = MakersLayouts.All.Single(layout => layout.Name == name);
        using var scratch = new Scratch();
        var made = new MakersMachine(layout, scratch);
        using (await made.Make())
        {
        }

        made.Change(machine =>
        {
            var files = machine.BootFiles;
            switch (fault)
            {
                case "store":
                    machine.SystemVolume!.Edit(volume => volume.Delete(files.StorePath));
                    break;
                case "manager":
                    machine.SystemVolume!.Edit(volume => volume.Delete(files.ManagerPath));
                    break;
                case "loader":
                    machine.Installations[0].Volume.Edit(volume => volume.Delete(@"\Windows\System32\" + files.LoaderName));
                    break;
                default:
                    var store = machine.Store.Store!;
                    store.Drop(store.WindowsEntries[0].Id);
                    machine.SystemVolume!.Edit(volume => volume.WriteFile(files.StorePath, store.ToBytes()));
                    break;
            }
        });
        using var broken = made.Open();
        var plan = Plan.For(broken, RepairTerms.Usual);
        plan.Before.Verdict.ShouldBe(Verdict.Broken);
        plan.Steps.ShouldNotBeEmpty();
        var left = plan.After.Findings.Select(finding => $"{finding.Id}: {finding.Seen}");
        plan.After.Verdict.ShouldBe(Verdict.Sound, string.Join('\n', left));
    }
}

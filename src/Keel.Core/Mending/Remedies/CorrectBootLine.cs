using Keel.Core.BootLists;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Lets the line of boot.ini that is started name disk, partition and folder of the one Windows that it can mean.
/// </summary>
internal sealed class CorrectBootLine : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
        [BootLineCheck.WrongPartition, BootLineCheck.WrongFolder, BootLineCheck.Unlisted];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system
            || machine.BootList.List is not { } list
            || machine.Nt5Start.Path is not { } path)
        {
            return Attempt.Refused("nothing-says");
        }

        if (BootLineCheck.Fit(machine, path) is not { } windows
            || ArcPlaces.Of(machine, windows.Volume, windows.Folder) is not { } right)
        {
            return Attempt.Refused("boot-line-several-fit", Fact.Device.Is($"{path}"));
        }

        Correct(list, $"{path}", $"{right}", windows.Product, BootListFile.SwitchesFor(windows));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of(
                "step.correct-boot-line",
                Fact.Device.Is($"{right}"),
                Fact.Folder.Is(windows.Folder),
                Fact.Volume.Is(windows.Volume.Ref)),
            BootListFile.Write(system, list, setAside: true)));
    }

    /// <summary>All lines of that path follow, since they mean the same Windows; where there is none, one is added.</summary>
    private static void Correct(BootList list, string wrong, string right, string title, string switches)
    {
        foreach (var line in list.Lines.Where(line => BootList.IsSame(line.Target, wrong)))
            list.Change(line, line with { Target = right });
        if (!list.Lines.Any(line => BootList.IsSame(line.Target, right))) list.Add(right, title, switches);
        list.SetDefault(right);
    }
}

using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;

namespace Keel.Core.Chain.Checks;

/// <summary>One partition, and the right one, is marked active.</summary>
internal sealed class ActiveMarkCheck : ILinkCheck
{
    public static readonly FindingKind TwoActive = new(
        "table-two-active",
        Link.ActiveMark,
        Severity.Error,
        "More than one partition is marked active.",
        StartupScreens.InvalidTable);

    public static readonly FindingKind NoneActive = new(
        "table-none-active",
        Link.ActiveMark,
        Severity.Error,
        "No partition is marked active.",
        StartupScreens.NoBootDevice,
        StartupScreens.MissingSystem);

    public static readonly FindingKind WrongActive = new(
        "table-active-wrong",
        Link.ActiveMark,
        Severity.Error,
        "The active partition is not the one with the boot files.",
        StartupScreens.ManagerMissing,
        StartupScreens.MissingSystem);

    public Link Link => Link.ActiveMark;

    public IReadOnlyList<FindingKind> Kinds => [TwoActive, NoneActive, WrongActive];

    public LinkReport Check(Machine machine)
    {
        var layout = machine.StartDisk.Layout;
        if (layout.Scheme != PartitionScheme.Mbr) return LinkReport.Unreached("active-mark.no-table");
        foreach (var problem in layout.Problems)
        {
            if (problem.Kind == LayoutProblemKind.TwoActive) return LinkReport.Wrong(TwoActive, problem.Seen);
            if (problem.Kind == LayoutProblemKind.NoneActive) return LinkReport.Wrong(NoneActive, problem.Seen);
        }

        var active = layout.Active.First(partition => !partition.Logical);
        return machine.SystemVolume is { } system && system.Number != active.Number
            ? LinkReport.Wrong(WrongActive, Fact.Partition.Is(active.Number), Fact.Volume.Is(system.Ref))
            : LinkReport.Sound("active-mark.sound", Fact.Partition.Is(active.Number));
    }
}

using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Chain.Checks;

/// <summary>An older Windows beside a newer one: its own chain, from the loader that the store has an entry for.</summary>
internal sealed class OlderSystemCheck : ILinkCheck
{
    public static readonly FindingKind Broken = new(
        "older-system-broken",
        Link.BootLine,
        Severity.Warning,
        "The menu offers an older Windows (NT 5), and its own chain is broken.")
    {
        Beyond = "The newer Windows starts all the same. 'keel bootini check' and 'keel bootini rebuild' put boot.ini right, "
            + "'keel files put' brings a file that is missing."
    };

    private static readonly ILinkCheck[] Chain =
        [new Nt5LoaderCheck(), new DetectFileCheck(), new BootListCheck(), new BootLineCheck()];

    public Link Link => Link.BootLine;

    public IReadOnlyList<FindingKind> Kinds => [Broken];

    /// <summary>Whether the menu of a machine offers such a system.</summary>
    public static bool IsOffered(Machine machine) =>
        machine.Store.Store is { Manager: { } manager } store
        && manager.References(Element.MenuOrder).Any(id => store.Entry(id)?.Type == EntryType.Nt5Loader);

    public LinkReport Check(Machine machine)
    {
        foreach (var check in Chain)
        {
            var report = check.Check(machine);
            if (report.Findings.FirstOrDefault(finding => finding.Kind.Severity == Severity.Error) is { } wrong)
                return LinkReport.Wrong(Broken, Fact.Link.Is(check.Link.Id()), Fact.Reason.Is(wrong.Seen));
            if (!report.Judged) return report;
            if (check is BootLineCheck) return report with { Findings = [] };
        }

        return LinkReport.Unreached("boot-line.no-windows");
    }
}

using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Mending;

namespace Keel.Cli.Views;

/// <summary>Shows what is wrong with a store.</summary>
internal sealed class StoreCheckView(Output output)
{
    public void Show(IReadOnlyList<Finding> findings)
    {
        if (output.IsJson)
        {
            KeelJson.Print(new StoreCheckDocument([.. findings.Select(ToDocument.Finding)]), KeelJson.Default.StoreCheckDocument);
            return;
        }

        if (findings.Count == 0)
        {
            output.Paragraph("The store is sound.", style: "green");
            return;
        }

        output.Paragraph($"{findings.Count} finding{(findings.Count == 1 ? "" : "s")}:", style: "red");
        foreach (var finding in findings)
        {
            output.Paragraph($"{finding.Id} ({ToDocument.Word(finding.Kind.Severity)}): {finding.Kind.What}", indent: 2, hang: 2);
            output.Paragraph(Words.Of(finding.Seen), indent: 4, style: "grey");
            if (Plan.IsMendable(finding)) output.Paragraph("mended by: keel mend", indent: 4, style: "grey");
        }
    }
}

using System.Text.Json;
using Keel.Cli.Views.Json;
using Keel.Core.Errors;

namespace Keel.Cli.Views.Reports;

/// <summary>The file that a report goes into: a new one, in the form that its ending says.</summary>
internal sealed class ReportFile
{
    private readonly NewTextFile file;
    private readonly ReportForm form;

    /// <exception cref="WrongUsageException">Its ending says no form, its folder is not there, or it is.</exception>
    public ReportFile(string path)
    {
        file = new NewTextFile(path);
        form = FormOf(path);
        file.RefuseWhereItCanNotBe();
    }

    /// <summary>Its full path.</summary>
    public string Name => file.Path;

    /// <summary>Writes the report.</summary>
    /// <exception cref="UnreadableException">It can't be written.</exception>
    public void Write(ReportDocument report) => file.Write(form switch
    {
        ReportForm.Html => new HtmlReport(report).Page(),
        ReportForm.Markdown => new MarkdownReport(report).Text(),
        _ => KeelJson.Text(report, KeelJson.Default.ReportDocument) + "\n"
    });

    private ReportForm FormOf(string path) => file.Ending switch
    {
        ".html" or ".htm" => ReportForm.Html,
        ".md" => ReportForm.Markdown,
        ".json" => ReportForm.Json,
        _ => throw new WrongUsageException(
            $"{path} says no form of report.",
            "The ending of its name does: .html for a page, .md for text, .json for data.",
            "Such as --out ticket.html")
    };
}

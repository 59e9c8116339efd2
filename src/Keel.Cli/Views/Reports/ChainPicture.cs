using System.Globalization;
using System.Text;
using Keel.Cli.Views.Json;

namespace Keel.Cli.Views.Reports;

/// <summary>The chain as a picture: a ring for each link, in order; its sign, not only its colour, says how it stands.</summary>
internal sealed class ChainPicture(IReadOnlyList<ReportLinkDocument> links)
{
    private const int Width = 420, RowHeight = 36, Top = 22, RingX = 24, Radius = 12, TextX = 50;

    /// <summary>The picture, as SVG for a page.</summary>
    public string Svg()
    {
        var height = (links.Count * RowHeight) + 8;
        var svg = new StringBuilder();
        svg.Append(
            CultureInfo.InvariantCulture,
            $"<svg class=\"chain\" viewBox=\"0 0 {Width} {height}\" role=\"img\" aria-label=\"{HtmlText.Of(InWords())}\">\n");
        for (var index = 0; index < links.Count; index++) Row(svg, index);
        return svg.Append("</svg>\n").ToString();
    }

    /// <summary>How a link stands: its class on the page, its sign, and the word for it.</summary>
    public static (string Class, string Sign, string Word) Look(ReportLinkDocument link) => link switch
    {
        { Mended: true, Stopped: true } => ("mended", "✓", "stopped here; mended"),
        { Mended: true, Before: "unreached" } => ("sound", "✓", "reached since"),
        { Mended: true } => ("mended", "✓", "mended"),
        { Stopped: true } => ("broken", "✕", "stopped here"),
        { Before: "broken" } => ("broken", "✕", "broken"),
        { Before: "doubtful" } => ("doubtful", "!", "doubtful"),
        { Before: "unreached" } => ("unreached", "–", "not reached"),
        _ => ("sound", "✓", "sound")
    };

    private string InWords() =>
        "The boot chain: " + string.Join(", ", links.Select(link => $"{link.Part}: {Look(link).Word}"));

    private void Row(StringBuilder svg, int index)
    {
        var (kind, sign, word) = Look(links[index]);
        var y = Top + (index * RowHeight);
        if (index + 1 < links.Count)
        {
            var isCut = links[index].Stopped && !links[index].Mended;
            svg.Append(
                CultureInfo.InvariantCulture,
                $"<line class=\"{(isCut ? "cut" : "joint")}\" x1=\"{RingX}\" y1=\"{y + Radius}\" x2=\"{RingX}\" ");
            svg.Append(CultureInfo.InvariantCulture, $"y2=\"{y + RowHeight - Radius}\"/>\n");
        }

        svg.Append(
            CultureInfo.InvariantCulture,
            $"<circle class=\"{kind}\" cx=\"{RingX}\" cy=\"{y}\" r=\"{Radius}\"/>\n");
        svg.Append(
            CultureInfo.InvariantCulture,
            $"<text class=\"sign {kind}\" x=\"{RingX}\" y=\"{y + 5}\">{sign}</text>\n");
        svg.Append(
            CultureInfo.InvariantCulture,
            $"<text class=\"name\" x=\"{TextX}\" y=\"{y + 1}\">{HtmlText.Of(links[index].Part)}</text>\n");
        svg.Append(
            CultureInfo.InvariantCulture,
            $"<text class=\"word\" x=\"{TextX}\" y=\"{y + 15}\">{HtmlText.Of($"{links[index].Link}: {word}")}</text>\n");
    }
}

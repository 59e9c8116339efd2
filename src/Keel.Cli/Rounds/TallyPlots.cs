using System.Text.RegularExpressions;
using OxyPlot;
using OxyPlot.Axes;
using OxyPlot.Series;

namespace Keel.Cli.Rounds;

/// <summary>Bars of a tally, drawn as SVG.</summary>
internal static partial class TallyPlots
{
    private const int Width = 720, BarHeight = 26, Frame = 50, MostBars = 20, LetterWidth = 8, Margin = 24;

    /// <summary>A bar for each name; what is beyond twenty stands in one bar.</summary>
    /// <param name="counts">The bars, the first on top.</param>
    /// <param name="color">Of the bars, as in #0060A0.</param>
    /// <param name="prefix">Stands before each name that a part of the drawing has: on one page every name is there once.</param>
    public static string Bars(IReadOnlyList<(string Name, int Count)> counts, string color, string prefix)
    {
        var shown = counts.Where(pair => pair.Count > 0).Take(MostBars).ToList();
        if (counts.Count > MostBars) shown.Add(("all others", counts.Skip(MostBars).Sum(pair => pair.Count)));
        shown.Reverse();
        var bars = new BarSeries
        {
            FillColor = OxyColor.Parse(color),
            LabelPlacement = LabelPlacement.Outside,
            LabelFormatString = "{0}",
            BarWidth = 0.7
        };
        foreach (var (_, count) in shown) bars.Items.Add(new BarItem(count));
        var names = new CategoryAxis { Position = AxisPosition.Left, GapWidth = 0.2, MajorTickSize = 0, MinorTickSize = 0 };
        names.Labels.AddRange(shown.Select(pair => pair.Name));
        var left = (shown.Max(pair => pair.Name.Length) * LetterWidth) + Margin;
        var model = new PlotModel
        {
            Background = OxyColors.White,
            DefaultFont = "sans-serif",
            DefaultFontSize = 12,
            PlotAreaBorderThickness = new OxyThickness(1, 0, 0, 1),
            PlotMargins = new OxyThickness(left, Margin / 4, Margin, Margin)
        };
        model.Axes.Add(names);
        model.Axes.Add(new LinearAxis
        {
            Position = AxisPosition.Bottom,
            Minimum = 0,
            MaximumPadding = 0.12,
            MinimumMajorStep = 1,
            MinorTickSize = 0
        });
        model.Series.Add(bars);
        var exporter = new SvgExporter { IsDocument = false, Width = Width, Height = (shown.Count * BarHeight) + Frame };
        var svg = exporter.ExportToString(model);
        return Named().Replace(svg[svg.IndexOf("<svg", StringComparison.Ordinal)..], match => match.Value + prefix);
    }

    /// <summary>Where a part of a drawing gets a name, or is meant by one.</summary>
    [GeneratedRegex("\\bid=\"|url\\(#|href=\"#", RegexOptions.ExplicitCapture, matchTimeoutMilliseconds: 1000)]
    private static partial Regex Named();
}

namespace Keel.Cli.Views.Reports;

/// <summary>The forms of a report, by the ending of its file.</summary>
internal enum ReportForm
{
    /// <summary>One page that needs nothing else.</summary>
    Html,

    /// <summary>The same as text with marks, for tickets that take text.</summary>
    Markdown,

    /// <summary>The same as data.</summary>
    Json
}

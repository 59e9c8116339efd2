using System.Text;
using Keel.Cli.Wording;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Spectre.Console;

namespace Keel.Cli.Terminal;

/// <summary>
/// Where results and messages go: results to standard output, the rest to standard error, both no wider than the terminal.
/// </summary>
internal sealed class Output
{
    private const int UsualWidth = 80, WidestText = 100, NarrowestText = 40, ColumnGap = 2;

    /// <summary>The least room in which the last of several columns reads well.</summary>
    private const int LeastLastColumn = 24;

    private readonly Lazy<int> width = new(WidthOf);
    private readonly Lazy<IAnsiConsole> results;
    private readonly Lazy<IAnsiConsole> messages;
    private WorkingLine? working;

    /// <param name="color">auto, always or never.</param>
    /// <param name="logbook">The folder given with --logbook; null for the usual one.</param>
    public Output(bool plain, bool isJson, string color, string? logbook)
    {
        Commands = new CommandWords(logbook);
        Ascii = plain || Environment.GetEnvironmentVariable("TERM") is "linux" or "dumb";
        var isPlain = plain
            || color == "never"
            || (color == "auto" && Environment.GetEnvironmentVariable("NO_COLOR") is { Length: > 0 })
            || (color == "auto" && Environment.GetEnvironmentVariable("TERM") == "dumb");
        var isForced = color == "always" && !plain;
        results = new Lazy<IAnsiConsole>(() => Open(Console.Out, isPlain || (Console.IsOutputRedirected && !isForced)));
        messages = new Lazy<IAnsiConsole>(() => Open(Console.Error, isPlain || (Console.IsErrorRedirected && !isForced)));
        IsJson = isJson;
    }

    /// <summary>Only ASCII may be printed.</summary>
    public bool Ascii { get; }

    public bool IsJson { get; }

    /// <summary>Whether somebody is there to answer.</summary>
    public static bool CanAsk => !Console.IsInputRedirected && !Console.IsErrorRedirected;

    /// <summary>Whether a line can be written over: on a terminal, and none that calls itself dumb.</summary>
    public static bool CanOverwrite =>
        !Console.IsErrorRedirected && Environment.GetEnvironmentVariable("TERM") is not (null or "" or "dumb");

    public int Width => width.Value;

    /// <summary>Commands to be printed.</summary>
    public CommandWords Commands { get; }

    /// <summary>What has been written to a disk by now, for the case that telling it fails; null where nothing was.</summary>
    public string? Written { get; set; }

    /// <summary>A repair is being written this moment, which nothing should cut off.</summary>
    public bool IsWriting { get; set; }

    /// <summary>The screen for what goes wrong before the command line is understood.</summary>
    public static Output BeforeParsing(string[] arguments)
    {
        var format = Array.IndexOf(arguments, "--format");
        var isJson = arguments.Contains("--format=json") || (format >= 0 && arguments.ElementAtOrDefault(format + 1) == "json");
        return new Output(arguments.Contains("--plain"), isJson, color: "auto", logbook: null);
    }

    /// <summary>A command to be typed, in one piece however long it is.</summary>
    public void Command(string command, int indent = 2) =>
        results.Value.MarkupLine(new string(' ', indent) + Styled(Markup.Escape(Escape(command)), "bold"));

    /// <summary>A sentence that ends with a command to be typed, which gets a line of its own where it would be broken.</summary>
    public void Paragraph(string text, string command, string? style = null)
    {
        if (TextFold.PlacesOf(Escape(text)) + 1 + TextFold.PlacesOf(Escape(command)) <= Width)
        {
            Paragraph($"{text} {command}", style: style);
            return;
        }

        Paragraph(text, style: style);
        Command(command);
    }

    /// <summary>
    /// A line of results; what is in it is markup, so text from elsewhere goes through <see cref="Escape"/> first.
    /// </summary>
    public void Line(string markup = "") => results.Value.MarkupLine(markup);

    /// <summary>A paragraph, wrapped, later lines hanging under the first.</summary>
    public void Paragraph(string text, int indent = 0, string? style = null, int hang = 0)
    {
        var first = true;
        foreach (var line in TextFold.Wrap(Escape(text), Width - indent, hang))
        {
            results.Value.MarkupLine(new string(' ', indent + (first ? 0 : hang)) + Styled(Markup.Escape(line), style));
            first = false;
        }
    }

    /// <summary>A heading.</summary>
    /// <param name="isFirst">Nothing stands before it, so no line is left free.</param>
    public void Heading(string text, bool isFirst = false)
    {
        if (!isFirst) results.Value.WriteLine();
        Paragraph(text, style: "bold", hang: 2);
    }

    /// <summary>Whether the last column stands beside others that take so many places, and not below them.</summary>
    public bool HasRoomFor(int placesBefore) => Width - placesBefore >= LeastLastColumn;

    /// <summary>
    /// Rows of cells under each other, the last column folded; where too little room is left for that, it stands below the
    /// others.
    /// </summary>
    public void Columns(IReadOnlyList<(string Text, string? Style)[]> rows, int indent = 2)
    {
        if (rows.Count == 0) return;
        var widths = Enumerable
            .Range(0, rows.Max(row => row.Length) - 1)
            .Select(column => rows.Max(row => column < row.Length - 1 ? TextFold.PlacesOf(Escape(row[column].Text)) : 0))
            .ToList();
        var start = indent + widths.Sum() + (ColumnGap * widths.Count);
        var needed = Math.Min(LeastLastColumn, rows.Max(row => TextFold.PlacesOf(Escape(row[^1].Text))));
        foreach (var row in rows)
        {
            if (Width - start >= needed) Row(row, widths, indent, start);
            else StackedRow(row, indent);
        }
    }

    private void Row((string Text, string? Style)[] row, IReadOnlyList<int> widths, int indent, int start)
    {
        var line = new StringBuilder(new string(' ', indent));
        for (var column = 0; column < row.Length - 1; column++)
        {
            line
                .Append(Styled(Markup.Escape(Escape(row[column].Text)), row[column].Style))
                .Append(' ', widths[column] - TextFold.PlacesOf(Escape(row[column].Text)) + ColumnGap);
        }

        var lines = TextFold.Wrap(Escape(row[^1].Text), Width - start).ToList();
        results.Value.MarkupLine((line + Styled(Markup.Escape(lines[0]), row[^1].Style)).TrimEnd());
        foreach (var more in lines.Skip(1))
            results.Value.MarkupLine(new string(' ', start) + Styled(Markup.Escape(more), row[^1].Style));
    }

    /// <summary>The cells one after another, the last one below them.</summary>
    private void StackedRow((string Text, string? Style)[] row, int indent)
    {
        var head = string.Join("  ", row[..^1].Select(cell => cell.Text).Where(text => text.Length > 0));
        var (last, style) = row[^1];
        if (head.Length == 0 || indent + TextFold.PlacesOf(Escape($"{head}  {last}")) <= Width)
        {
            Paragraph(head.Length == 0 ? last : $"{head}  {last}".TrimEnd(), indent, style, hang: 2);
            return;
        }

        Paragraph(head, indent, row.Length > 1 ? row[^2].Style : null, hang: 2);
        Paragraph(last, indent + 2, style, hang: 2);
    }

    /// <summary>A line that is not a result.</summary>
    public void Message(string text)
    {
        foreach (var line in TextFold.Wrap(Escape(text), Width)) messages.Value.WriteLine(line);
    }

    /// <summary>
    /// Shows how far a long work has come, on a terminal and after a second only; one line that is written over.
    /// </summary>
    public Action<string, int, int> Progress(string verb)
    {
        var clock = System.Diagnostics.Stopwatch.StartNew();
        return (what, number, count) =>
        {
            if (!CanOverwrite || clock.Elapsed.TotalSeconds < 1) return;
            var line = Escape($"{verb} {number} of {count}: {what}");
            var fitted = line.Length < Width ? line.PadRight(Width - 1) : line[..(Width - 1)];
            var isLast = number == count;
            Console.Error.Write($"\r{fitted}");
            if (isLast) Console.Error.Write($"\r{new string(' ', Width - 1)}\r");
        };
    }

    /// <summary>Does work that may take long, and says on a terminal that it goes on.</summary>
    /// <param name="what">What is being done, as behind "keel is".</param>
    public T Working<T>(string what, Func<T> work)
    {
        if (!CanOverwrite) return work();
        using var line = new WorkingLine(what, Width);
        var before = working;
        working = line;
        try
        {
            return work();
        }
        finally
        {
            working = before;
        }
    }

    /// <summary>
    /// Waits for somebody's answer; nothing is shown as being done meanwhile.
    /// </summary>
    /// <param name="ask">Asks.</param>
    /// <param name="anew">
    /// Whether something is written then: what was typed before the question was there does not answer it.
    /// </param>
    public T Answered<T>(Func<T> ask, bool anew)
    {
        working?.Pause();
        try
        {
            if (anew) DropTypedAhead();
            return ask();
        }
        finally
        {
            working?.GoOn();
        }
    }

    private static void DropTypedAhead()
    {
        if (Console.IsInputRedirected) return;
        HostStreams.DropTyped();
        while (Console.KeyAvailable) _ = Console.ReadKey(intercept: true);
    }

    /// <summary>What happened, why, and what to do.</summary>
    public void Error(KeelException error)
    {
        try
        {
            PrintError(error);
        }
        catch (IOException)
        {
            // Standard error takes nothing either; the exit code still says it.
        }
    }

    private void PrintError(KeelException error)
    {
        const string sign = "keel: ";
        var isFirst = true;
        foreach (var line in new[] { error.What, Words.Why(error), Words.Todo(error) }
            .Where(text => text.Length > 0)
            .SelectMany(text => TextFold.Wrap(Escape(text), Width - sign.Length)))
        {
            messages.Value.MarkupLine((isFirst ? Styled(sign, "bold red") : new string(' ', sign.Length)) + Markup.Escape(line));
            isFirst = false;
        }

        foreach (var command in error.Commands)
            messages.Value.MarkupLine(new string(' ', sign.Length) + Markup.Escape(Escape(command)));
    }

    /// <summary>
    /// Asks a question on standard error and gives the first letter of the answer; Enter alone, and the end of the input,
    /// mean no.
    /// </summary>
    /// <param name="choices">Such as "[y]es / [n]o"; they stand in the last line, which is never folded.</param>
    public char Ask(string question, string choices) => Answered(() => AskNow(question, choices), anew: true);

    private char AskNow(string question, string choices)
    {
        var lines = TextFold.Wrap($"{Escape(question)} {choices}? ", Width).ToList();
        if (lines.Count > 1) lines = [.. TextFold.Wrap(Escape(question), Width), $"{choices}? "];
        foreach (var line in lines[..^1]) messages.Value.MarkupLine(Styled(Markup.Escape(line), "bold"));
        messages.Value.Markup(Styled(Markup.Escape(lines[^1]), "bold"));
        return Console.In.ReadLine()?.Trim() is { Length: > 0 } answer ? char.ToLowerInvariant(answer[0]) : 'n';
    }

    /// <summary>Begins at the top of an empty screen, where the terminal can do that; else below a free line.</summary>
    public void NewScreen()
    {
        if (Console.IsOutputRedirected || Environment.GetEnvironmentVariable("TERM") is null or "dumb") results.Value.WriteLine();
        else Console.Out.Write("\u001b[2J\u001b[H");
    }

    /// <summary>Asks for a line on standard error; null where the input has ended.</summary>
    /// <param name="question">What is asked.</param>
    /// <param name="anew">Whether something is written then, so that what was typed before does not count.</param>
    public string? AskLine(string question, bool anew = false) => Answered(() => AskLineNow(question), anew);

    private string? AskLineNow(string question)
    {
        Prompt(question);
        return Console.In.ReadLine()?.Trim();
    }

    /// <summary>A question on standard error, the answer to which is read by whoever asks.</summary>
    public void Prompt(string question) => messages.Value.Markup(Styled(Markup.Escape(Escape(question)), "bold") + " ");

    /// <summary>
    /// Text from elsewhere, without control characters, and without anything but ASCII where only that may be printed.
    /// </summary>
    public string Escape(string text)
    {
        if (!text.Any(letter => char.IsControl(letter) || letter >= 0x7F)) return text;
        var safe = new StringBuilder();
        foreach (var rune in text.EnumerateRunes())
        {
            var category = Rune.GetUnicodeCategory(rune);
            var hidden = category is System.Globalization.UnicodeCategory.Control
                or System.Globalization.UnicodeCategory.Format
                or System.Globalization.UnicodeCategory.LineSeparator
                or System.Globalization.UnicodeCategory.ParagraphSeparator
                    or System.Globalization.UnicodeCategory.PrivateUse
                    or System.Globalization.UnicodeCategory.OtherNotAssigned;
            if (hidden || rune.Value == 0xFFFD || (Ascii && !rune.IsAscii))
                safe.Append($"\\u{{{rune.Value:x}}}");
            else
                safe.Append(rune);
        }

        return safe.ToString();
    }

    private static string Styled(string markup, string? style) =>
        style is null || markup.Length == 0 ? markup : $"[{style}]{markup}[/]";

    private static int WidthOf()
    {
        try
        {
            return Console.IsOutputRedirected || Console.WindowWidth <= 0
                ? UsualWidth
                : Math.Clamp(Console.WindowWidth, NarrowestText, WidestText);
        }
        catch (IOException)
        {
            return UsualWidth;
        }
    }

    private static IAnsiConsole Open(TextWriter writer, bool noColour)
    {
        var console = AnsiConsole.Create(new AnsiConsoleSettings
        {
            Ansi = noColour ? AnsiSupport.No : AnsiSupport.Yes,
            ColorSystem = noColour ? ColorSystemSupport.NoColors : ColorSystemSupport.Standard,
            Interactive = InteractionSupport.No,
            Out = new AnsiConsoleOutput(writer)
        });
        console.Profile.Width = 1000;                           // lines are wrapped here, not there
        return console;
    }
}

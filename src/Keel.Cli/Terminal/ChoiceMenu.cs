namespace Keel.Cli.Terminal;

/// <summary>
/// Offers a few numbered choices: a number or the arrow keys select one, Enter takes it, everywhere alike. Where the terminal
/// can't move its cursor, or keys don't come one by one, a number is typed and Enter.
/// </summary>
internal sealed class ChoiceMenu(Output output)
{
    private const int Most = 9;

    /// <summary>
    /// The index of what was chosen; null where the technician wants to go back (q, Esc, or the end of the input).
    /// </summary>
    public int? Ask(string question, IReadOnlyList<string> choices)
    {
        if (choices.Count > Most) throw new ArgumentException($"A menu has {Most} choices at most.", nameof(choices));
        output.Message("");
        output.Message(question);
        return CanMove ? output.Answered(() => AskByKeys(choices), anew: true) : AskByNumber(choices);
    }

    /// <summary>Shows a menu until something leads out of it.</summary>
    /// <param name="back">What q and Esc do, in a word or two.</param>
    public ChoiceEnd Run(string question, string back, Func<IReadOnlyList<Choice>> choices)
    {
        while (true)
        {
            var offered = choices();
            if (Ask(question, [.. offered.Select(choice => choice.Text), back]) is not { } chosen || chosen == offered.Count)
                return ChoiceEnd.Back;
            if (offered[chosen].Act() is var end and not ChoiceEnd.Again) return end;
        }
    }

    private static bool CanMove =>
        !Console.IsInputRedirected
        && !Console.IsErrorRedirected
        && Environment.GetEnvironmentVariable("TERM") is not (null or "dumb");

    private int? AskByNumber(IReadOnlyList<string> choices)
    {
        foreach (var (text, index) in choices.Select((text, index) => (text, index))) output.Message($"  {index + 1}  {text}");
        while (true)
        {
            var answer = output.AskLine("Number, or q to go back:");
            if (answer is null or "q" or "Q") return null;
            if (int.TryParse(answer, out var number) && number >= 1 && number <= choices.Count) return number - 1;
            output.Message($"Please answer 1 to {choices.Count}, or q.");
        }
    }

    private int? AskByKeys(IReadOnlyList<string> choices)
    {
        var at = 0;
        Draw(choices, at);
        while (true)
        {
            var key = Console.ReadKey(intercept: true);
            if (char.IsAsciiDigit(key.KeyChar) && key.KeyChar - '1' is var index && index >= 0 && index < choices.Count)
            {
                at = index;
                Redraw(choices, at);
                continue;
            }

            switch (key.Key)
            {
                case ConsoleKey.Enter:
                    return at;
                case ConsoleKey.Escape or ConsoleKey.Q:
                    return null;
                case ConsoleKey.UpArrow:
                    at = (at + choices.Count - 1) % choices.Count;
                    Redraw(choices, at);
                    break;
                case ConsoleKey.DownArrow or ConsoleKey.Tab:
                    at = (at + 1) % choices.Count;
                    Redraw(choices, at);
                    break;
                default:
                    break;
            }
        }
    }

    private void Redraw(IReadOnlyList<string> choices, int at)
    {
        Console.Error.Write($"\u001b[{choices.Count}A");
        Draw(choices, at);
    }

    private void Draw(IReadOnlyList<string> choices, int at)
    {
        foreach (var (text, index) in choices.Select((text, index) => (text, index)))
        {
            var line = output.Escape($"{(index == at ? ">" : " ")} {index + 1}  {text}");
            var room = output.Width - 1;
            Console.Error.Write($"\r\u001b[K{(line.Length > room ? line[..room] : line)}\n");
        }
    }
}

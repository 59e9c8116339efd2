namespace Keel.Cli.Terminal;

/// <summary>One line of a menu.</summary>
/// <param name="Text">What it offers.</param>
/// <param name="Act">What is done where it is chosen.</param>
internal sealed record Choice(string Text, Func<ChoiceEnd> Act);

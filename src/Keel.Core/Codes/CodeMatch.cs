namespace Keel.Core.Codes;

/// <summary>What a typed code or message was taken for.</summary>
/// <param name="Input">As it was typed.</param>
/// <param name="Errors">The errors it can mean, most likely first; empty where nothing fits.</param>
/// <param name="Guessed">True where it was not read to the letter: a zero put back, or a message matched loosely.</param>
public sealed record CodeMatch(string Input, IReadOnlyList<StartupError> Errors, bool Guessed)
{
    /// <summary>Whether several codes are as near to what was typed: none is the answer before somebody chooses.</summary>
    public bool IsChoice { get; init; }

    /// <summary>Whether what was typed is a parameter of a stop code, without the code itself.</summary>
    public bool IsParameterOnly { get; init; }

    /// <summary>The match, with one of its errors chosen.</summary>
    public CodeMatch Choose(StartupError error) => this with { Errors = [error], IsChoice = false };
}

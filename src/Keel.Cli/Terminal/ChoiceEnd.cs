namespace Keel.Cli.Terminal;

/// <summary>How it goes on after a choice of a menu.</summary>
internal enum ChoiceEnd
{
    /// <summary>The same menu once more.</summary>
    Again,

    /// <summary>Back to where the menu came from.</summary>
    Back,

    /// <summary>The session ends.</summary>
    Leave
}

using Keel.Cli.Terminal;

namespace Keel.Cli.Commands;

/// <summary>Asks before a file is opened that an image names outside of its own folder.</summary>
internal static class ParentQuestion
{
    /// <summary>Whether it may be opened; never where nobody is there to answer.</summary>
    public static bool Ask(Output output, string path)
    {
        if (output.IsJson || !Output.CanAsk) return false;
        return output.Ask($"The image names a file outside of its folder: {path}. Open it:", "[y]es / [n]o") == 'y';
    }
}

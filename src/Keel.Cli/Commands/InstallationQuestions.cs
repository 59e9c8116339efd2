using Keel.Cli.Terminal;
using Keel.Core.Windows;

namespace Keel.Cli.Commands;

/// <summary>Asks of each installation found whether a store or a list is to have it.</summary>
internal sealed class InstallationQuestions(
    Output output,
    IReadOnlyList<WindowsInstallation> all,
    Func<WindowsInstallation, bool> isListedAlready)
{
    private int asked;
    private int taken;

    /// <summary>Nothing is asked: all of them.</summary>
    public bool TakesAll { get; set; }

    /// <summary>Whether one is to be listed.</summary>
    public bool IsTaken(WindowsInstallation found, bool isListed)
    {
        if (asked++ == 0 && !TakesAll)
        {
            var fresh = all.Count(other => !isListedAlready(other));
            output.Message($"Installations found: {all.Count}, of them new: {fresh}.");
        }

        var isTaken = TakesAll || Ask(found, isListed, hasMore: asked < all.Count);
        if (isTaken) taken++;
        if (asked == all.Count && taken == 0) output.Message("Careful: none is listed, so no Windows is started.");
        return isTaken;
    }

    private bool Ask(WindowsInstallation found, bool isListed, bool hasMore)
    {
        var disk = output.Commands.AsTyped(found.Volume.DiskPath);
        var answer = output.Ask(
            $"List {found} of {disk} ({(isListed ? "already listed" : "new")}):",
            hasMore ? "[y]es / [n]o / [a]ll" : "[y]es / [n]o");
        TakesAll = answer == 'a';
        return answer is 'y' or 'a';
    }
}

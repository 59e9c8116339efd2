using Keel.Cli.Terminal;
using Keel.Core.Chain;
using Keel.Core.Windows;

namespace Keel.Cli.Commands;

/// <summary>Asks of each installation found whether the store is to list it.</summary>
internal sealed class InstallationQuestions(Output output, Machine machine)
{
    private int asked;
    private int taken;

    /// <summary>Nothing is asked: all of them.</summary>
    public bool TakesAll { get; set; }

    /// <summary>Whether one is to be listed.</summary>
    public bool IsTaken(WindowsInstallation found, bool isListed)
    {
        var all = machine.StoreInstallations;
        if (asked++ == 0 && !TakesAll)
        {
            var fresh = all.Count(other => !machine.IsListed(other));
            output.Message($"Installations found: {all.Count}, of them new: {fresh}.");
        }

        var isTaken = TakesAll || Ask(found, isListed, hasMore: asked < all.Count);
        if (isTaken) taken++;
        if (asked == all.Count && taken == 0) output.Message("Careful: none is listed, so the new store starts no Windows.");
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

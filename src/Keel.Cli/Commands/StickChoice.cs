using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Sticks;

namespace Keel.Cli.Commands;

/// <summary>Which stick is written: asked for where none is named, and never without its name being typed.</summary>
internal sealed class StickChoice(Output output)
{
    /// <summary>One of the removable disks of this computer.</summary>
    public string Ask()
    {
        var sticks = ComputerDisks.All().Where(disk => disk.IsRemovable).Take(9).ToList();
        if (sticks.Count == 0)
        {
            throw new WrongUsageException(
                "No stick was named, and none is here.",
                "This computer has no removable disk.",
                "Plug one in, and run the same command again.");
        }

        if (!Output.CanAsk || output.IsJson)
        {
            throw new WrongUsageException(
                "No stick was named.",
                $"There are {string.Join("; ", sticks.Select(DiskView.Line))}.",
                "Name one of these behind the image.");
        }

        return new ChoiceMenu(output).Ask("Which stick is written?", [.. sticks.Select(DiskView.Line)]) is { } chosen
            ? sticks[chosen].Path
            : throw Declined();
    }

    /// <summary>Refuses what is no stick: a disk that is built in, one in use or too small, the image itself.</summary>
    public static void RefuseUnfit(string path, DiskFile image)
    {
        if (ComputerDisks.All().FirstOrDefault(disk => disk.Path == path) is { IsRemovable: false })
        {
            throw new RefusedException(
                $"{path} was not written.",
                "It is built into this computer, and no stick.",
                "Name a removable disk; without a name keel lists them.");
        }

        if (path == image.Path)
        {
            throw new WrongUsageException(
                $"{path} was not written.",
                "It is the image itself.",
                "Name the stick behind the image.");
        }

        DiskUse.RefuseIfInUse(path);
        using var stick = DiskFile.Open(path);
        StickWriting.RefuseUnfit(image, stick);
    }

    /// <summary>Has the device's name typed, since all on it is lost.</summary>
    public void RequireConsent(string path, string? agreed)
    {
        var name = Path.GetFileName(path);
        if (agreed is not null)
        {
            if (agreed == name) return;
            throw new WrongUsageException(
                "Nothing was written.",
                $"--erase says \"{agreed}\", and the stick is \"{name}\".",
                "Name the same twice.");
        }

        if (!Output.CanAsk)
        {
            throw new RefusedException(
                "Nothing was written.",
                "Nobody is at a terminal to agree that all on it is lost.",
                $"Run it at a terminal, or agree beforehand with --erase {name}.");
        }

        output.Message("");
        if (output.AskLine($"All of this is lost for good. Type {name} to go on:") != name) throw Declined();
    }

    private static RefusedException Declined() => new(
        "Nothing was written.",
        "The name of the stick was not typed.",
        "Run the same command again if it is meant.");
}

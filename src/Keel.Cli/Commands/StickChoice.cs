using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Disks;
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

    /// <summary>Refuses what is no stick: one in use or too small, the image itself by whatever name.</summary>
    public static void RefuseUnfit(string path, DiskFile image)
    {
        if (DiskPath.IsSame(path, image.Path))
        {
            throw new WrongUsageException(
                $"{path} was not written.",
                path == image.Path ? "It is the image itself." : $"It is the image itself, {image.Path}, by another name.",
                "Name the stick behind the image.");
        }

        DiskUse.RefuseIfInUse(path);
        using var stick = DiskFile.Open(path);
        StickWriting.RefuseUnfit(image, stick);
    }

    /// <summary>
    /// Has the device's name typed, since all on it is lost; of what is not shown to be a stick, its serial number, which nobody
    /// types by mistake.
    /// </summary>
    public void RequireConsent(string path, string? agreed)
    {
        var disk = ComputerDisks.Of(path);
        var isShown = disk?.IsRemovable ?? true;                // an image of a stick is a file that was named
        var word = disk is null ? Path.GetFileName(path)
            : isShown ? Path.GetFileName(disk.Path)
            : disk.Traits.Serial ?? throw NotShown(disk, "It has no serial number either, by which it could be named surely.");
        if (agreed is not null)
        {
            if (agreed == word) return;
            if (!isShown) throw NotShown(disk!, $"--erase says \"{agreed}\", which is not its serial number.");
            throw new WrongUsageException(
                "Nothing was written.",
                $"--erase says \"{agreed}\", and the stick is \"{word}\".",
                "Name the same twice.");
        }

        if (!Output.CanAsk)
        {
            if (!isShown) throw NotShown(disk!, "Nobody is at a terminal to agree that all on it is lost.");
            throw new RefusedException(
                "Nothing was written.",
                "Nobody is at a terminal to agree that all on it is lost.",
                $"Run it at a terminal, or agree beforehand with --erase {word}.");
        }

        output.Message("");
        if (!isShown) output.Message($"{disk!.Path} is not shown to be a removable disk: it may be one that is built in.");
        var what = isShown ? word : $"its serial number ({output.Escape(word)})";
        if (output.AskLine($"All of this is lost for good. Type {what} to go on:", anew: true) != word) throw Declined();
    }

    private static RefusedException NotShown(ComputerDisk disk, string why) => new(
        $"{disk.Path} was not written: nothing shows that it is a removable disk.",
        why,
        disk.Traits.Serial is null
            ? "Name a removable disk; without a name keel lists them."
            : "Name a removable disk; or, if this one is meant, agree with --erase and its serial number.");

    private static RefusedException Declined() => new(
        "Nothing was written.",
        "The name of the stick was not typed.",
        "Run the same command again if it is meant.");
}

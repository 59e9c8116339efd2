using Keel.Core.BootLists;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>What a technician asks of boot.ini; done in the overlay, like every repair.</summary>
public static class BootListRequests
{
    /// <summary>The list of a machine, for looking.</summary>
    /// <exception cref="UnreadableException">There is none, or it can't be read.</exception>
    public static BootList Open(Machine machine)
    {
        var state = machine.BootList;
        return state is { Condition: BootListCondition.Loaded, List: { } list }
            ? list
            : throw new UnreadableException(
                "There is no boot.ini to go by.",
                "",
                "Where NT 5 is on the disk, build it anew: keel bootini rebuild")
            { Reason = state.Seen };
    }

    /// <summary>Changes the list; what was there stays beside it.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="change">Changes the list, and says what that does.</param>
    public static Plan Change(Machine machine, Func<BootList, Remark> change)
    {
        var before = Open(machine).ToBytes();
        return Plan.ForRequest(machine, id =>
        {
            var list = Open(machine);
            var summary = change(list);
            return list.ToBytes().AsSpan().SequenceEqual(before)
                ? new Step(Link.BootList, id, summary, Array.Empty<StepDetail>())
                : new Step(Link.BootList, id, summary, BootListFile.Write(machine.SystemVolume!, list, setAside: true));
        });
    }

    /// <summary>Builds the list anew from the installations chosen, keeping titles and switches.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="include">Asked for each installation found, with whether the list has it already.</param>
    public static Plan Rebuild(Machine machine, Func<WindowsInstallation, bool, bool> include)
    {
        var system = BootCodeRequests.VolumeOrSystem(machine, number: null);
        var found = Installations(machine);
        if (found.Count == 0)
        {
            throw new RefusedException(
                "Nothing was written.",
                "No Windows of NT 5 was found, and boot.ini lists no others.",
                "If it lies on another disk, add that with --with; later Windows is listed by keel store rebuild.");
        }

        var chosen = found.Where(installation => include(installation, machine.IsListed(installation))).ToList();
        var details = new List<StepDetail>
        {
            new(
                Remark.Of("line.installations-found", Fact.InstallationCount.Is(found.Count)),
                StepDetailKind.InstallationCount)
        };
        details.AddRange(found.Select(installation => new StepDetail(
            Remark.Of("line.installation", Fact.Product.Is($"{installation}"), Fact.Build.Is(installation.Build)).With(
                Fact.IsListed.Is(machine.IsListed(installation)),
                Fact.IsLeftOut.Is(!chosen.Contains(installation))),
            StepDetailKind.Installation)));
        var list = BootListFile.Build(machine, machine.BootList.List, chosen);
        var summary = Remark.Of(
            "step.rebuild-boot-list",
            Fact.Volume.Is(system.Ref),
            Fact.InstallationCount.Is(chosen.Count));
        return Plan.ForRequest(machine, id =>
        {
            var lines = BootListFile.Write(machine.SystemVolume!, list, setAside: true);
            return new Step(Link.BootList, id, summary, [.. details, .. lines.Select(line => new StepDetail(line))]);
        });
    }

    /// <summary>The installations that such a list may hold.</summary>
    public static IReadOnlyList<WindowsInstallation> Installations(Machine machine) =>
        [.. machine.Installations.Where(found => found.IsNt5 && found.Volume.InFile is null)];

    /// <summary>The line of a number, or of a title or the only beginning of one.</summary>
    /// <exception cref="WrongUsageException">None or several are meant.</exception>
    public static BootLine Pick(BootList list, string words)
    {
        if (int.TryParse(words, out var number) && list.Lines.FirstOrDefault(line => line.Number == number) is { } numbered)
            return numbered;
        var exact = Titled(list, title => title.Equals(words, StringComparison.OrdinalIgnoreCase));
        var fitting = exact.Count > 0
            ? exact
            : Titled(list, title => title.StartsWith(words, StringComparison.OrdinalIgnoreCase));
        return fitting is [var only]
            ? only
            : throw new WrongUsageException(
                fitting.Count == 0 ? $"There is no line \"{words}\"." : $"\"{words}\" fits {fitting.Count} lines.",
                $"There are {string.Join(", ", list.Lines.Select(line => $"{line.Number} \"{line.Title}\""))}.",
                "Name one by its number.");
    }

    /// <summary>What a line is to start, from a technician's words: a volume with a folder, an ARC path, a file.</summary>
    /// <exception cref="WrongUsageException">It is none of these.</exception>
    public static string TargetOf(Machine machine, string words)
    {
        if (ArcPath.TryParse(words) is not null) return words;
        if (words is [var letter, ':', '\\', ..] && char.IsAsciiLetter(letter)) return words;
        var parts = words.Split(':', 2);
        var folder = parts.Length == 2 ? parts[1] : @"\WINDOWS";
        return int.TryParse(parts[0], out var number)
            && folder.StartsWith('\\')
            && machine.StartDisk.Volumes.FirstOrDefault(volume => volume.Number == number) is { } found
            && ArcPlaces.Of(machine, found, folder) is { } path
                ? $"{path}"
                : throw new WrongUsageException(
                    $"\"{words}\" names nothing that a line could start.",
                    $"The disk has {machine.StartDisk.Volumes.Count} volumes.",
                    @"Write a volume and a folder (2:\WINDOWS), an ARC path, or a file with a boot sector (C:\OLDBOOT.DOS).");
    }

    private static List<BootLine> Titled(BootList list, Func<string, bool> fits) =>
        [.. list.Lines.Where(line => line.Title is { } title && fits(title))];
}

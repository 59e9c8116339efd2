using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>Lets the entry name volume, folder and loader of the one installation that it can mean.</summary>
internal sealed class CorrectWindowsEntry : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        WindowsEntryCheck.WrongFolder,
        WindowsEntryCheck.WrongLoader,
        WindowsEntryCheck.Incomplete,
        WindowsEntryCheck.WrongVolume,
        WindowsEntryCheck.WrongPath
    ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.Store.Store is not { } store || store.Started is not { } entry)
            return Attempt.Refused("store-unreadable");
        var fit = EntryFit.Of(machine, entry);
        if (Chosen(fit, terms) is not { } installation)
        {
            return fit.Choices.Count == 0
                ? Attempt.Refused("nothing-says")
                : Attempt.Refused(
                    "entry-several-fit",
                    Fact.Title.Is(entry.Title ?? ""),
                    Fact.Installations.Is([.. fit.Choices.Select((choice, index) => $"{index + 1}: {choice}")]))
                with
                { Obstacle = Obstacle.SeveralFit };
        }

        var isOther = machine.VolumeOf(entry.Device(Element.WindowsVolume)) != installation.Volume
            || !EntryFit.IsFolder(entry, installation.Folder);
        if (isOther && PreferredOther.HasOwn(machine, store, entry, installation))
            return PreferredOther.Apply(machine, finding, entry);
        return StoreRemedy.Apply(machine, finding, loaded =>
        {
            if (loaded.Started is not { } started) return null;
            Direct(machine, started, installation);
            return Remark.Of(
                "step.correct-entry",
                Fact.Title.Is(started.Title ?? ""),
                Fact.Path.Is(started.Text(Element.ProgramFile)!),
                Fact.Volume.Is(installation.Volume.Ref));
        });
    }

    /// <summary>The only one that fits, or the one that was said; null where that is open.</summary>
    private static WindowsInstallation? Chosen(EntryFit fit, RepairTerms terms) =>
        fit.Installation
            ?? (terms.FittingInstallation is { } number ? fit.Choices.ElementAtOrDefault(number - 1) : null);

    /// <summary>Sets what does not lead to the installation; what does stays as it is written.</summary>
    private static void Direct(Machine machine, BootEntry entry, WindowsInstallation installation)
    {
        var volume = installation.Volume;
        foreach (var element in new[] { Element.ProgramVolume, Element.WindowsVolume })
        {
            if (machine.VolumeOf(entry.Device(element)) != volume)
                entry.Set(element, machine.DeviceOf(volume));
        }

        if (!EntryFit.IsFolder(entry, installation.Folder)) entry.Set(Element.WindowsFolder, installation.Folder);
        var named = entry.Text(Element.ProgramFile);
        var usual = $@"{installation.Folder}\System32\{machine.BootFiles.LoaderName}";
        var isRight = named is not null
            && volume.Files?.FileExists(named) == true
            && named.EndsWith(Path.GetExtension(machine.BootFiles.LoaderName), StringComparison.OrdinalIgnoreCase);
        if (!isRight) entry.Set(Element.ProgramFile, usual);
    }
}

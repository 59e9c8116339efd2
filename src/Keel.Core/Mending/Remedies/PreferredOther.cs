using Keel.Core.Chain;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Where the preferred entry leads to a Windows that is gone, or on a disk that is not here: it stays as it is, and where exactly
/// one other entry is sound, that one is preferred.
/// </summary>
internal static class PreferredOther
{
    /// <summary>Whether an installation has a sound entry already, other than that one.</summary>
    public static bool HasOwn(Machine machine, BootStore store, BootEntry entry, WindowsInstallation installation) =>
        store.WindowsEntries.Any(other => other.Id != entry.Id
            && EntryFit.IsSound(machine, other)
            && machine.VolumeOf(other.Device(Element.WindowsVolume)) == installation.Volume
            && EntryFit.IsFolder(other, installation.Folder));

    /// <summary>What its Windows may be: one of several that are here, one behind a lock, or one on another disk.</summary>
    private static Attempt WithoutSound(Machine machine, BootEntry gone, KnownFact[] facts)
    {
        var twins = machine.StoreInstallations.Where(found => EntryFit.IsFolder(gone, found.Folder)).ToList();
        if (twins.Count > 1)
            return Attempt.Refused("entry-twins", [.. facts, Fact.Installations.Is([.. twins.Select(twin => $"{twin}")])]);
        var locked = machine.Volumes
            .Where(volume => volume.Kind == FileSystemKind.BitLocker)
            .Select(volume => $"{volume}")
            .ToList();
        return locked.Count > 0
            ? Attempt.Refused("entry-locked", [.. facts, Fact.Names.Is(locked)])
            : Attempt.Refused("entry-elsewhere", facts);
    }

    /// <summary>Prefers the only sound entry; refuses where there is none, or where several are.</summary>
    public static Attempt Apply(Machine machine, Finding finding, BootEntry gone)
    {
        var sound = machine.Store.Store!.WindowsEntries
            .Where(other => other.Id != gone.Id && EntryFit.IsSound(machine, other))
            .ToList();
        KnownFact[] facts =
        [
            Fact.Title.Is(gone.Title ?? ""),
            Fact.Device.Is($"{gone.Device(Element.WindowsVolume) ?? gone.Device(Element.ProgramVolume)}")
        ];
        if (sound.Count == 0) return WithoutSound(machine, gone, facts);
        if (sound.Count > 1)
        {
            return Attempt.Refused(
                "entry-elsewhere-several",
                [.. facts, Fact.Names.Is([.. sound.Select(other => other.Title ?? "")])]);
        }

        return StoreRemedy.Apply(machine, finding, store =>
        {
            if (store.Entry(sound[0].Id) is not { } other) return null;
            StoreEditing.Prefer(store, other);
            return Remark.Of("step.prefer-other", Fact.Title.Is(other.Title ?? ""), Fact.Entry.Is(gone.Title ?? ""));
        });
    }
}

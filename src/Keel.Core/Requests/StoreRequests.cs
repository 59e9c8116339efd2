using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>What a technician asks of a store inside a disk; done in the overlay, like every repair.</summary>
public static class StoreRequests
{
    /// <summary>Whether an entry of Windows leads to no installation that is here.</summary>
    public static bool LeadsNowhere(Machine machine, BootEntry entry) => EntryFit.LeadsNowhere(machine, entry);

    /// <summary>The store of a volume, for looking.</summary>
    /// <param name="machine">The machine.</param>
    /// <param name="number">The volume; null for the system volume.</param>
    /// <exception cref="UnreadableException">There is none, or it will not load.</exception>
    public static BootStore Open(Machine machine, int? number)
    {
        var state = StateOf(machine, number, out _);
        return state.Store
            ?? throw new UnreadableException(
                "The store can't be read.",
                "",
                "Run 'keel store rebuild' or 'keel mend'; 'keel store check' says more.")
            { Reason = state.Seen };
    }

    /// <summary>Changes a store.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="number">The number of the volume, from 1; null to choose.</param>
    /// <param name="change">Changes the store, and says what that does.</param>
    public static Plan Change(Machine machine, int? number, Func<BootStore, Remark> change)
    {
        var store = Open(machine, number);
        var before = BootStore.Read(store.ToBytes());
        var state = StateOf(machine, number, out var volume);
        return Plan.ForRequest(machine, id =>
        {
            var summary = change(store);
            var lines = new StoreDifference(new MachineDevices(machine)).Between(before, store);
            if (lines.Count == 0) return new Step(Link.Store, id, summary, Array.Empty<StepDetail>());
            return Write(volume, state.Path, store.ToBytes(), id, summary, [.. lines.Select(line => new StepDetail(line))]);
        });
    }

    /// <summary>Puts a store's bytes in the place of what is there; that is set aside.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="number">The number of the volume, from 1; null to choose.</param>
    /// <param name="bytes">The store, to the byte.</param>
    /// <param name="store">The same, read.</param>
    /// <param name="summary">What that does.</param>
    public static Plan Replace(Machine machine, int? number, byte[] bytes, BootStore store, Remark summary)
    {
        var state = StateOf(machine, number, out var volume);
        var before = state.Store ?? BootStore.Empty(DateTimeOffset.UnixEpoch);
        var lines = new StoreDifference(new MachineDevices(machine)).Between(before, store);
        if (lines.Count == 0) lines = [Remark.Of("line.entries-same")];
        return Plan.ForRequest(
            machine,
            id => Write(volume, state.Path, bytes, id, summary, [.. lines.Select(line => new StepDetail(line))], setAside: true));
    }

    /// <summary>Builds the store anew from the installations chosen, keeping what can be kept of the old one.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="number">The number of the volume, from 1; null to choose.</param>
    /// <param name="fresh">Keep nothing.</param>
    /// <param name="include">Asked for each installation found, with whether the store lists it already.</param>
    /// <param name="terms">What the technician allows and wants.</param>
    public static Plan Rebuild(
        Machine machine,
        int? number,
        bool fresh,
        Func<WindowsInstallation, bool, bool> include,
        RepairTerms terms)
    {
        var state = StateOf(machine, number, out var volume);
        if (machine.StoreInstallations.Count == 0)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"No Windows installation was found: {machine.Volumes.Count()} volumes were looked at.",
                "If Windows lies on another disk, add it with --with.");
        }

        var chosen = machine.StoreInstallations
            .Where(installation => include(installation, machine.IsListed(installation)))
            .ToList();
        var rebuilt = StoreRebuild.Build(machine, volume, fresh ? null : state.Store, chosen, terms);
        var summary = Remark.Of("step.store-built", Fact.EntryCount.Is(chosen.Count));
        return Plan.ForRequest(
            machine,
            id => Write(volume, state.Path, rebuilt.Bytes, id, summary, rebuilt.Details, setAside: true));
    }

    private static Step Write(
        DiskVolume volume,
        string path,
        byte[] bytes,
        string id,
        Remark summary,
        IReadOnlyList<StepDetail> details,
        bool setAside = false)
    {
        var lines = details.ToList();
        volume.Edit(files =>
        {
            if (setAside)
            {
                lines.AddRange(
                    StoreRebuild.SetAside(files, path).Select(line => new StepDetail(line.With(Fact.Volume.Is(volume.Ref)))));
            }

            BootFileRenewal.MakeWay(files, path);
            files.CreateFolder(VolumeExtensions.FolderOf(path));
            files.WriteFile(path, bytes);
        });
        lines.Add(setAside ? StoreRebuild.Made(path, volume, bytes) : StoreRebuild.Changed(path, volume, bytes));
        return new Step(Link.Store, id, summary, lines);
    }

    private static StoreState StateOf(Machine machine, int? number, out DiskVolume volume)
    {
        BootCodeRequests.RefuseNt5(machine, "Such a machine is set up in \\boot.ini.");
        volume = BootCodeRequests.VolumeOrSystem(machine, number);
        return number is null ? machine.Store : StoreState.Read(volume, machine.BootFiles.StorePath);
    }
}

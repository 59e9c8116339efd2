using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>Builds a new store from the installations found, and sets the old one aside under another name.</summary>
internal sealed class RebuildStore : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
        [
            StoreCheck.Missing,
            StoreCheck.Folder,
            StoreCheck.Truncated,
            StoreCheck.Damaged,
            StoreCheck.NoEntries,
            WindowsEntryCheck.Missing,
            InsideDiskCheck.EntryMissing
        ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system) return Attempt.Refused("system-volume-not-known");
        if (machine.StoreInstallations.Count == 0)
            return Attempt.Refused("no-installation", Fact.VolumeCount.Is(machine.Volumes.Count()));

        var count = machine.StoreInstallations.Count;
        var path = machine.Store.Path;
        var standing = machine.Store.Store is { Entries.Count: > 0 } store ? store : null;
        var older = standing is null ? OfSnapshot(system, path) : null;
        var old = standing ?? older?.Found ?? machine.Store.Store;
        var (bytes, lines) = StoreRebuild.Build(machine, system, old, machine.StoreInstallations, terms);
        var details = lines.ToList();
        if (older is { } state) details.Add(Remark.Of("line.store-from-snapshot", Fact.Written.Is(state.Made)));
        system.Edit(files =>
        {
            details.AddRange(
                StoreRebuild.SetAside(files, path).Select(line => new StepDetail(line.With(Fact.Volume.Is(system.Ref)))));
            if (BootFileRenewal.MakeWay(files, path) is { } inTheWay)
            {
                var line = Remark.Of("line.file-in-the-way", Fact.OtherPath.Is(inTheWay), Fact.Volume.Is(system.Ref));
                details.Add(new StepDetail(line));
            }

            files.CreateFolder(VolumeExtensions.FolderOf(path));
            files.WriteFile(path, bytes);
            files.SetMarks(path, FileMarks.Archive);
        });
        var made = StoreRebuild.Made(path, system, bytes);
        details.Add(made.With(Fact.EntryCount.Is(count)));
        var summary = Remark.Of("step.rebuild-store", Fact.Volume.Is(system.Ref), Fact.InstallationCount.Is(count));
        return Attempt.Done(new Step(Link.Store, finding.Id, summary, details));
    }

    /// <summary>The store of the youngest snapshot that has a sound one.</summary>
    private static (BootStore Found, DateTimeOffset Made)? OfSnapshot(DiskVolume system, string path) => OlderStates.Youngest(
        system,
        files => HiveCopies.TryRead(files, path) is { } bytes && BootStore.Read(bytes) is { Manager: not null } store
            ? store
            : null,
        out _);
}

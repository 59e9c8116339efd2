using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Recreates boot files that are missing or damaged from the installation's own copies; only those, unless the volume is empty.
/// </summary>
internal sealed class RenewBootFiles : IRemedy
{
    private const int MostTold = 3;

    public IReadOnlyList<FindingKind> Mends =>
    [
        ManagerFileCheck.Missing,
        ManagerFileCheck.Empty,
        ManagerFileCheck.Folder,
        ManagerFileCheck.Compressed,
        ManagerFileCheck.CutShort,
        ManagerFileCheck.Damaged,
        ManagerFileCheck.Altered,
        ManagerFileCheck.WrongMachine,
        ManagerFileCheck.NotTrusted,
        FallbackFileCheck.Missing, FallbackFileCheck.Damaged, SystemVolumeCheck.Formatted
    ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system) return Attempt.Refused("system-volume-not-known");
        var fallback = FallbackFile.PathFor(machine.Processor);
        var path = finding.Link == Link.FallbackFile ? fallback : machine.BootFiles.ManagerPath;
        var (copy, refused) = GoodCopies.Find(machine, system, path);
        if (copy is null) return WithoutCopy(machine, finding, system, path, refused);
        return finding.Kind == SystemVolumeCheck.Formatted ? All(machine, finding, system) : One(finding, system, path, copy);
    }

    private static Attempt WithoutCopy(
        Machine machine,
        Finding finding,
        DiskVolume system,
        string path,
        IReadOnlyList<Remark> refused) =>
        finding.Kind == ManagerFileCheck.NotTrusted
            ? Attempt.Refused("no-trusted-copy", Fact.Path.Is(path), Fact.Volume.Is(system.Ref))
            : refused.Count > 0
                ? Attempt.Refused("copies-damaged", Fact.Path.Is(path), Fact.Files.Is([.. refused.Take(MostTold)]))
                : Attempt.Refused("no-boot-file-copies", Fact.InstallationCount.Is(machine.Installations.Count));

    private static Attempt One(Finding finding, DiskVolume system, string path, GoodCopy copy)
    {
        KnownFact[] where = [Fact.Path.Is(path), Fact.Volume.Is(system.Ref)];
        Remark? change = null;
        system.Edit(writable => change = BootFileRenewal.WriteOne(writable, path, copy.Bytes));
        var summary = copy.IsTwin ? Remark.Of("step.renew-from-twin", [.. where, Fact.OtherPath.Is(copy.Source)])
            : Remark.Of(
                finding.Link == Link.FallbackFile ? "step.renew-fallback" : "step.renew-manager",
                Fact.Volume.Is(system.Ref),
                Fact.Source.Is(copy.Source));
        var lines = new List<Remark> { Remark.Of("line.file", [.. where, Fact.Change.Is(change!)]) };
        if (!copy.IsProven) lines.Add(Remark.Of("line.copy-not-proven"));
        return Attempt.Done(new Step(finding.Link, finding.Id, summary, lines) { IsGuess = !copy.IsProven });
    }

    private static Attempt All(Machine machine, Finding finding, DiskVolume system)
    {
        if (BootFileRenewal.BestSource(machine, machine.BootFiles) is not { } source)
            return Attempt.Refused("no-boot-file-copies", Fact.InstallationCount.Is(machine.Installations.Count));
        var freed = ReleaseAll(system);
        var copies = source.FilesFor(machine.BootFiles, machine.Processor);
        var lines = BootFileRenewal.Write(machine, system, source, copies, all: false);
        if (freed > 0) lines.Add(Remark.Of("line.clusters-freed", Fact.ClusterCount.Is(freed)));
        var summary = Remark.Of("step.renew-all", Fact.Volume.Is(system.Ref), Fact.Source.Is(source.Name));
        return Attempt.Done(new Step(finding.Link, finding.Id, summary, lines));
    }

    /// <summary>An emptied root folder leaves everything taken that it led to.</summary>
    private static int ReleaseAll(DiskVolume system)
    {
        var freed = 0;
        system.Edit(files => freed = files is FatVolume fat ? fat.ReleaseAll() : 0);
        return freed;
    }
}

using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Recreates boot files that are missing or damaged from the installation's own copies; only those, unless the volume is empty.
/// </summary>
internal sealed class RenewBootFiles : IRemedy
{
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

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system) return Attempt.Refused("system-volume-not-known");
        var fallback = FallbackFile.PathFor(machine.Processor);
        var path = finding.Link == Link.FallbackFile ? fallback : machine.BootFiles.ManagerPath;
        if (BootFileRenewal.BestSource(machine, machine.BootFiles) is not { } source)
            return finding.Kind == ManagerFileCheck.NotTrusted
                ? Attempt.Refused("no-trusted-copy", Fact.Path.Is(path), Fact.Volume.Is(system.Ref))
                : FromTwin(machine, system, finding, path, path == fallback ? machine.BootFiles.ManagerPath : fallback);
        var copies = source.FilesFor(machine.BootFiles, machine.Processor);
        if (finding.Kind != SystemVolumeCheck.Formatted)
            copies = [.. copies.Where(copy => copy.Target.Equals(path, StringComparison.OrdinalIgnoreCase))];
        if (finding.Kind == ManagerFileCheck.NotTrusted && !copies.Any(copy => IsTrusted(machine, source.Read(copy))))
            return Attempt.Refused("no-trusted-copy", Fact.Path.Is(path), Fact.Volume.Is(system.Ref));
        var freed = finding.Kind == SystemVolumeCheck.Formatted ? ReleaseAll(system) : 0;
        var lines = BootFileRenewal.Write(system, source, copies, all: finding.Kind != SystemVolumeCheck.Formatted);
        if (freed > 0) lines.Add(Remark.Of("line.clusters-freed", Fact.ClusterCount.Is(freed)));
        var id = finding.Kind == SystemVolumeCheck.Formatted ? "step.renew-all"
            : finding.Link == Link.FallbackFile ? "step.renew-fallback"
            : "step.renew-manager";
        var summary = Remark.Of(id, Fact.Volume.Is(system.Ref), Fact.Source.Is(source.Name));
        return Attempt.Done(new Step(finding.Link, finding.Id, summary, lines));
    }

    /// <summary>An emptied root folder leaves everything taken that it led to.</summary>
    private static int ReleaseAll(DiskVolume system)
    {
        var freed = 0;
        system.Edit(files => freed = files is FatVolume fat ? fat.ReleaseAll() : 0);
        return freed;
    }

    private static bool IsTrusted(Machine machine, byte[] program) =>
        ProgramTrust.WhyRefused(new MemoryBlocks(program), machine.SecureBoot) is null;

    /// <summary>Manager and fallback file are the same program: where no copy is left, one is made from the other.</summary>
    private static Attempt FromTwin(Machine machine, DiskVolume system, Finding finding, string path, string twin)
    {
        if (machine.Firmware == FirmwareKind.Uefi
            && system.Files is { } files
            && ProgramState.Of(system, files, twin, machine.Processor) is { Condition: ProgramCondition.Sound })
        {
            var bytes = files.ReadFile(twin);
            Remark? change = null;
            system.Edit(writable => change = BootFileRenewal.WriteOne(writable, path, bytes));
            KnownFact[] where = [Fact.Path.Is(path), Fact.Volume.Is(system.Ref)];
            return Attempt.Done(new Step(
                finding.Link,
                finding.Id,
                Remark.Of("step.renew-from-twin", [.. where, Fact.OtherPath.Is(twin)]),
                Remark.Of("line.file", [.. where, Fact.Change.Is(change!)])));
        }

        return Attempt.Refused("no-boot-file-copies", Fact.InstallationCount.Is(machine.Installations.Count));
    }
}

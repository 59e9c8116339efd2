using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Search;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Makes an EFI system partition anew where it is lost for good: in free space of the disk, never by shrinking anything; and
/// formats one that holds nothing to lose.
/// </summary>
internal sealed class MakeEfiVolume : IRemedy
{
    private const long MiB = 1024 * 1024, LeastBytes = 100 * MiB, UsualBytes = 260 * MiB;
    private const string Label = "SYSTEM", PartitionName = "EFI system partition";

    public IReadOnlyList<FindingKind> Mends => [SystemVolumeCheck.Missing];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var disk = machine.StartDisk;
        if (disk.Layout.Scheme != PartitionScheme.Gpt) return Attempt.Refused("esp-of-mbr");
        if (disk.ReadErrors.Any) return Attempt.Refused("table-disk-fails");
        if (!machine.Installations.Any(installation => !installation.IsNt5)) return Attempt.Refused("esp-no-windows");
        if (machine.Volumes.FirstOrDefault(volume => volume.Partition.IsEfiSystem) is { } other)
            return Attempt.Refused("esp-on-other-disk", Fact.Volume.Is(other.Ref), Fact.Disk.Is(other.DiskPath));
        if (FreeRange(disk) is not { } range) return Attempt.Refused("esp-no-free-space");
        var sectorBytes = disk.Overlay.SectorBytes;
        var sectors = new SectorRange(range.Start / sectorBytes, (range.End / sectorBytes) - 1);
        var added = GptEditor.Add(disk.Overlay, PartitionTypes.GptEfiSystem, terms.NewId(), PartitionName, sectors);
        if (added != GptEditResult.Done) return Attempt.Refused("gpt-no-sound-copy");
        var volume = disk.Volumes.First(candidate => candidate.Partition.Range.Start == range.Start);
        var place = Remark.Of(
            "line.esp-in-free-space",
            Fact.Partition.Is(volume.Number),
            Fact.Sector.Is(sectors.First),
            Fact.SizeBytes.Is(range.Length));
        var serial = BitConverter.ToUInt32(terms.NewId().ToByteArray());
        var made = VolumeFormat.Of(volume, Label, serial, [place], finding.Id);
        return Attempt.Done(made with { Consent = StepConsent.NewFileSystem });
    }

    /// <summary>
    /// Formats an EFI system partition that has no file system; refused where anything on it may be somebody's.
    /// </summary>
    internal static Attempt Format(Machine machine, DiskVolume volume, string findingId, RepairTerms terms)
    {
        if (volume.Kind != FileSystemKind.Unknown || BootSectorRescue.RebuildFat32(volume, serial: 0) is not null)
            return Attempt.Refused("esp-nothing-to-restore");
        if (machine.StartDisk.ReadErrors.Any) return Attempt.Refused("table-disk-fails");
        if (FileTraces.FirstIn(volume.Blocks) is { } trace)
            return Attempt.Refused("esp-holds-traces", Fact.AtByte.Is(trace.AtByte), Fact.Type.Is(trace.Kind));
        if (volume.Blocks.LengthBytes < LeastBytes / 4) return Attempt.Refused("esp-nothing-to-restore");
        var serial = BitConverter.ToUInt32(terms.NewId().ToByteArray());
        var step = VolumeFormat.Of(volume, Label, serial, [Remark.Of("line.no-traces")], findingId);
        return Attempt.Done(step with { Consent = StepConsent.NewFileSystem });
    }

    /// <summary>
    /// Free space of a usable size, on whole MiB; volumes that no partition lists are in the way as much as those that one lists.
    /// </summary>
    private static ByteRange? FreeRange(MachineDisk disk)
    {
        var end = disk.Overlay.LengthBytes - MiB;
        var taken = disk.Layout.Partitions.Select(partition => partition.Range)
            .Concat(disk.QuickSearch().Volumes.Select(volume => volume.Range))
            .OrderBy(range => range.Start)
            .ToList();
        var at = MiB;
        foreach (var range in taken.Append(new ByteRange(end, MiB)))
        {
            var room = (Math.Min(range.Start, end) / MiB * MiB) - at;
            if (room >= LeastBytes) return new ByteRange(at, Math.Min(room, UsualBytes));
            at = Math.Max(at, (range.End + MiB - 1) / MiB * MiB);
        }

        return null;
    }
}

using Keel.Core.Chain;
using Keel.Core.Facts;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;

namespace Keel.Core.Mending;

/// <summary>A new file system for firmware to start from.</summary>
internal static class VolumeFormat
{
    /// <summary>Formats a volume; what that loses is said by <paramref name="lost"/>.</summary>
    public static Step Of(DiskVolume system, string label, uint serial, IEnumerable<StepDetail> lost, string id)
    {
        var hidden = (uint)(system.Partition.Range.Start / system.Blocks.SectorBytes);
        var kind = FatFormat.Format(system.Blocks, label, serial, hidden);
        return new Step(
            Link.SystemVolume,
            id,
            Remark.Of(
                "step.format",
                Fact.Volume.Is(system.Ref),
                Fact.FileSystem.Is(FileSystemProbe.Name(kind)),
                Fact.Label.Is(label.ToUpperInvariant()),
                Fact.Serial.Is($"{serial:X8}")),
            [.. lost, Remark.Of("line.kept-in-logbook")]);
    }
}

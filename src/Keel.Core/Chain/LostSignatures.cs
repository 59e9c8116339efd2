using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Rescue;
using Keel.Core.Store;
using Keel.Core.Windows;

namespace Keel.Core.Chain;

/// <summary>
/// Disks whose signature is zero, and which the store or Windows knows by another one: it was wiped, with the code before it or
/// alone. Every device of the store hangs on it, so it is put back, and the store is left alone.
/// </summary>
internal static class LostSignatures
{
    public static readonly FindingKind Kind = new(
        "disk-signature-missing",
        Link.DiskLayout,
        Severity.Error,
        "The disk has lost its signature, and the store and Windows know it by that.",
        StartupScreens.NoSuchDevice,
        StartupScreens.NotFoundElement);

    public static IReadOnlyList<FindingKind> Kinds => [Kind];

    /// <summary>A finding for each such disk.</summary>
    public static IEnumerable<Finding> Of(Machine machine) => machine.Disks
        .Where(disk => disk.Inside is null && disk.Layout is { Scheme: PartitionScheme.Mbr, Identity.IsNone: true })
        .Select(disk => (Disk: disk, Signature: RememberedFor(machine, disk)))
        .Where(pair => pair.Signature is not null)
        .Select(pair => Kind.At(Fact.Disk.Is(pair.Disk.Path), Fact.Signature.Is($"{pair.Signature:x8}")));

    /// <summary>The signature by which a disk is remembered; null where nothing says one, or two are said as often.</summary>
    public static uint? RememberedFor(Machine machine, MachineDisk disk)
    {
        var votes = new SignatureVotes();
        foreach (var entry in machine.Store.Store?.Entries ?? [])
        {
            foreach (var element in entry.Elements.Where(Element.IsDevice))
            {
                if (entry.Device(element) is { IsPartition: true, StartBytes: { } start } device)
                    votes.Add(device.Disk.Signature, start);
            }
        }

        foreach (var installation in machine.Installations)
        {
            foreach (var (_, signature, start) in DriveLetters.Of(installation).MbrTargets) votes.Add(signature, start);
        }

        return votes.For([.. disk.Layout.Partitions.Select(partition => partition.Range.Start)]);
    }
}

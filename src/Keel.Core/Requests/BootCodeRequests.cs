using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Mending.Remedies;
using Keel.Core.Volumes;

namespace Keel.Core.Requests;

/// <summary>
/// What a technician asks for outright: boot code, the active mark, a boot sector. Done in the overlay, like every repair.
/// </summary>
public static class BootCodeRequests
{
    /// <summary>New code for the master boot record; disk signature and table stay.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="from">A disk whose code is taken instead of keel's; null for keel's.</param>
    /// <param name="terms">What the technician allows and wants.</param>
    /// <exception cref="RefusedException">A UEFI layout, another system's code without leave, or nothing usable on the other
    ///     disk.</exception>
    public static Plan RewriteMbr(Machine machine, MachineDisk? from, RepairTerms terms)
    {
        RequireBios(machine);
        var overlay = machine.StartDisk.Overlay;
        RefuseForeign(
            CodeRecognizer.OfMbr(new MasterBootRecord(overlay.ReadBytes(0, MasterBootRecord.Size)).Code),
            "the master boot record",
            terms);
        var code = from is null
            ? KeelBootCode.Mbr()
            : new MasterBootRecord(from.Overlay.ReadBytes(0, MasterBootRecord.Size)).Code.ToArray();
        RefuseUseless(CodeRecognizer.OfMbr(code), from);
        return Plan.ForRequest(machine, id => WriteMbrCode.Write(machine, code, id));
    }

    /// <summary>Another signature for the disk; code and table stay.</summary>
    /// <exception cref="RefusedException">A GPT disk, zero, or the signature of another disk of the machine.</exception>
    public static Plan Sign(Machine machine, uint signature)
    {
        RequireBios(machine);
        var disk = machine.StartDisk;
        if (signature == 0)
        {
            throw new RefusedException(
                "Nothing was written.",
                "A disk without a signature has zero there, and Windows gives it a new one.",
                "Name the signature by which the store knows the disk: 'keel store show' has it.");
        }

        var others = machine.Disks.Where(other => other != disk);
        if (others.FirstOrDefault(other => other.Layout.Identity == DiskIdentity.OfMbr(signature)) is { } twin)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"{twin.Path} has the signature {signature:x8} already, and Windows keeps only one of two such disks.",
                "Take that disk out, or name another signature.");
        }

        return Plan.ForRequest(machine, id => RestoreSignature.Write(disk, signature, id));
    }

    /// <summary>Moves the active mark.</summary>
    public static Plan Activate(Machine machine, int number)
    {
        RequireBios(machine);
        var volume = VolumeNumbered(machine, number);
        if (volume.Partition.Logical)
        {
            throw new RefusedException(
                $"{volume} can't be made active.",
                "It is a logical partition, and firmware starts primary ones only.",
                "Name a primary partition.");
        }

        return Plan.ForRequest(machine, id => MarkActive.Mark(machine, volume, id));
    }

    /// <summary>New boot code for a volume; its parameters stay, place and geometry are put right.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="number">The volume; null for the system volume.</param>
    /// <param name="loader">What the code is to load; null for what the machine has.</param>
    /// <param name="from">Where the code comes from; null for keel's own.</param>
    /// <param name="terms">What the technician allows and wants.</param>
    public static Plan RewriteSector(Machine machine, int? number, LoaderKind loader, MachineDisk? from, RepairTerms terms)
    {
        RequireBios(machine);
        if (loader == LoaderKind.BootManager)
            RefuseNt5(machine, "keel sector rewrite --for nt5 writes the code that it starts through.");
        var volume = VolumeOrSystem(machine, number);
        Locks.RefuseLocked(volume);
        if (BootSectorCopy.Recognize(volume.Blocks, volume.Kind) is { } reading)
            RefuseForeign(reading, $"the boot sector of {volume}", terms);
        var code = from is null ? null : CodeOf(from, volume.Kind);
        return Plan.ForRequest(machine, id => WriteBootSectorCode.Write(volume, loader, code, id));
    }

    /// <summary>A boot sector from its backup copy, or rebuilt from the file system.</summary>
    public static Plan RestoreSector(Machine machine, int? number, RepairTerms terms)
    {
        var volume = VolumeOrSystem(machine, number);
        Locks.RefuseLocked(volume);
        return Plan.ForRequest(machine, id =>
        {
            var attempt = RestoreBootSector.Restore(machine, volume, id, terms);
            return attempt.Step
                ?? throw new RefusedException($"The boot sector of {volume} was not restored.", "", "") { Reason = attempt.Why };
        });
    }

    /// <summary>The volume asked for, or the system volume.</summary>
    /// <exception cref="WrongUsageException">There is none of that number.</exception>
    public static DiskVolume VolumeOrSystem(Machine machine, int? number) => number is { } asked
        ? VolumeNumbered(machine, asked)
        : machine.SystemVolume
            ?? throw new RefusedException(
                "The system volume is not known.",
                "",
                "Name a volume with --volume; 'keel survey' lists them.")
            { Reason = machine.SystemVolumeReason };

    /// <summary>Explains why boot code is not looked at on a UEFI layout; null for BIOS.</summary>
    public static Remark? NoBootCodeReason(Machine machine) => machine.Firmware == FirmwareKind.Uefi
        ? Remark.Of("no-boot-code", Fact.Reason.Is(machine.FirmwareReason))
        : null;

    /// <summary>Refuses what belongs to NT 6 and later on a machine of NT 5.</summary>
    /// <exception cref="RefusedException">It is one.</exception>
    internal static void RefuseNt5(Machine machine, string todo)
    {
        if (machine.Nt5Evidence is { } evidence)
        {
            throw new RefusedException("Nothing was written.", "", todo)
            {
                Reason = Remark.Of("nt5-no-use", Fact.Reason.Is(evidence))
            };
        }
    }

    private static void RequireBios(Machine machine)
    {
        if (NoBootCodeReason(machine) is { } reason)
        {
            throw new RefusedException(
                "Nothing was written.",
                "",
                "Look at the boot manager and the store instead: keel diagnose DISK")
            { Reason = reason };
        }

        if (machine.StartDisk.Layout.Scheme == PartitionScheme.None)
        {
            throw new RefusedException("Nothing was written.", "", "Name the whole disk; where it is one, its table comes first.")
            {
                Reason = Remark.Of(
                    "no-table-on",
                    Fact.Disk.Is(machine.StartDisk.Path),
                    Fact.Reason.Is(machine.StartDisk.Layout.Problems[0].Seen))
            };
        }
    }

    private static DiskVolume VolumeNumbered(Machine machine, int number) =>
        machine.StartDisk.Volumes.FirstOrDefault(volume => volume.Number == number)
        ?? throw new WrongUsageException(
            $"There is no volume {number} on {machine.StartDisk.Path}.",
            $"It has {string.Join(", ", machine.StartDisk.Volumes.Select(volume => volume.ToString()).DefaultIfEmpty("none"))}.",
            "Run 'keel survey' to see them.");

    private static void RefuseForeign(CodeReading reading, string where, RepairTerms terms)
    {
        if (reading.Owner is not (CodeOwner.Foreign or CodeOwner.Unknown) || terms.ReplaceForeign) return;
        throw new RefusedException(
            "Nothing was written.",
            $"The code in {where} is {(reading.Owner == CodeOwner.Foreign ? $"that of {reading.Name}" : "not known here")}, "
                + "and replacing it could take another system's start away.",
            "If only Windows is to start from this disk, run the same command with --replace-foreign.");
    }

    private static void RefuseUseless(CodeReading reading, MachineDisk? from)
    {
        if (from is null || reading.Owner is CodeOwner.Windows or CodeOwner.Keel) return;
        throw new RefusedException(
            "Nothing was written.",
            $"The code on {from.Path} is no healthy boot code of Windows or keel: {reading.Name}.",
            "Name a disk that starts, or leave --from out to take keel's own code.");
    }

    private static byte[] CodeOf(MachineDisk from, FileSystemKind kind)
    {
        foreach (var volume in from.Volumes
            .Where(volume => volume.Kind == kind)
            .OrderByDescending(volume => volume.Partition.Active))
        {
            var sectors = BootSectorCopy.TryRead(volume.Blocks, kind);
            if (sectors is not null
                && CodeRecognizer.OfBootSector(sectors, BootSectorCopy.CodeAt(kind)).Owner is CodeOwner.Windows or CodeOwner.Keel)
            {
                return sectors;
            }
        }

        throw new RefusedException(
            "Nothing was written.",
            $"{from.Path} has no {FileSystemProbe.Name(kind)} volume with boot code of Windows or keel.",
            "Name a disk that starts, or leave --from out to take keel's own code.");
    }
}

using Keel.Core.BootCode;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;

namespace Keel.Core.Machines;

/// <summary>How the EFI system partition stands: looked at once, since the links behind it ask for it too.</summary>
/// <param name="Condition">How it stands.</param>
/// <param name="Facts">What was seen.</param>
internal sealed record SystemVolumeState(SystemVolumeCondition Condition, IReadOnlyList<KnownFact> Facts)
{
    /// <summary>What was seen, where another part has said it in its own words.</summary>
    public Remark? Seen { get; private init; }

    /// <summary>Why it could not be looked at.</summary>
    public ReadFailedException? Error { get; private init; }

    /// <summary>Whether its files can't be got at before it is mended itself.</summary>
    public bool BlocksFiles => Condition
        is not (SystemVolumeCondition.Sound or SystemVolumeCondition.CopiesDiffer or SystemVolumeCondition.WrongType);

    /// <summary>Looks at the system volume of a machine that starts through UEFI.</summary>
    public static SystemVolumeState Of(Machine machine)
    {
        try
        {
            return machine.SystemVolume?.Unreadable is { } error ? NotRead(error) : Look(machine);
        }
        catch (ReadFailedException e)
        {
            return NotRead(e);
        }
    }

    private static SystemVolumeState Look(Machine machine)
    {
        if (machine.SystemVolume is not { } volume) return Is(SystemVolumeCondition.Missing, machine.SystemVolumeReason);
        if (!volume.Partition.IsEfiSystem && machine.Medium.Volume is null)
            return Is(SystemVolumeCondition.WrongType, Fact.Volume.Is(volume.Ref), Fact.Type.Is(volume.Partition.TypeName));
        if (volume.SectorFault is { } fault)
            return Is(SystemVolumeCondition.WrongFields, Fact.Volume.Is(volume.Ref), Fact.Names.Is(fault.Fields));
        if (volume.Kind is not (FileSystemKind.Fat12 or FileSystemKind.Fat16 or FileSystemKind.Fat32)) return WithoutFat(volume);
        try
        {
            return Judge(volume, FatHealth.Of(volume.Blocks, volume.ToString()));
        }
        catch (KeelException e) when (e is not ReadFailedException)
        {
            return Is(SystemVolumeCondition.Damaged, e.AsRemark());
        }
    }

    private static SystemVolumeState WithoutFat(DiskVolume volume)
    {
        var facts = new List<KnownFact> { Fact.Volume.Is(volume.Ref) };
        if (volume.Kind != FileSystemKind.Unknown) facts.Add(Fact.FileSystem.Is(FileSystemProbe.Name(volume.Kind)));
        if (BootSectorRescue.FindBackup(volume) is { Kind: FileSystemKind.Fat32 } backup)
            facts.Add(Fact.Backup.Is(FileSystemProbe.Name(backup.Kind)));
        return new SystemVolumeState(SystemVolumeCondition.NoFileSystem, facts);
    }

    private static SystemVolumeState Judge(DiskVolume volume, FatHealth health)
    {
        if (health.Damage.Count > 0)
        {
            return Is(
                SystemVolumeCondition.Damaged,
                Fact.Volume.Is(volume.Ref),
                Fact.Said.Is(health.Damage[0]),
                Fact.TablesDiffer.Is(health.CopiesDiffer));
        }

        if (volume.Files is not { } files)
        {
            return Is(
                SystemVolumeCondition.Damaged,
                volume.FilesProblem?.AsRemark() ?? Remark.Of("volume.files-unreadable", Fact.Volume.Is(volume.Ref)));
        }

        KnownFact[] facts = [Fact.Volume.Is(volume.Ref), Fact.FileSystem.Is(FileSystemProbe.Name(volume.Kind))];
        if (!files.FolderExists(@"\EFI")) return Is(SystemVolumeCondition.Formatted, facts);
        return health.CopiesDiffer
            ? Is(SystemVolumeCondition.CopiesDiffer, facts[0])
            : Is(SystemVolumeCondition.Sound, facts);
    }

    private static SystemVolumeState Is(SystemVolumeCondition condition, params KnownFact[] facts) => new(condition, facts);

    private static SystemVolumeState Is(SystemVolumeCondition condition, Remark seen) => new(condition, []) { Seen = seen };

    private static SystemVolumeState NotRead(ReadFailedException error) =>
        new(SystemVolumeCondition.NotRead, []) { Error = error };
}

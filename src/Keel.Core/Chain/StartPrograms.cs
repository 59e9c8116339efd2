using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain;

/// <summary>What start programs look like, each read once until something near it on its disk changes.</summary>
internal sealed class StartPrograms(Machine machine)
{
    private readonly Dictionary<FilePlace, (long Version, ProgramState State)> known = [];

    /// <summary>Looks at a program, to its end. What can't be read is told as unreadable.</summary>
    public ProgramState Look(DiskVolume volume, IVolume files, string path)
    {
        var place = FilePlace.Of(volume, path);
        var version = machine.Disks.First(disk => disk.Path == volume.DiskPath).Overlay.VersionOf(volume.Partition.Range);
        if (known.TryGetValue(place, out var seen) && seen.Version == version) return seen.State;
        ProgramState state;
        try
        {
            state = ProgramState.Of(volume, files, path, machine.Processor, whole: true);
        }
        catch (UnreadableException e)
        {
            state = new ProgramState(
                ProgramCondition.Unreadable,
                Remark.Of(
                    "program.unreadable",
                    Fact.Path.Is(path),
                    Fact.Volume.Is(volume.Ref),
                    Fact.What.Is(e.What),
                    Fact.Why.Is(e.Why)),
                null,
                null);
        }

        known[place] = (version, state);
        return state;
    }
}

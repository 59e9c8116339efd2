using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Programs;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>What start programs look like, each read once until something on its volume changes.</summary>
internal sealed class ProgramStates(Machine machine)
{
    private readonly Dictionary<FilePlace, ProgramState> known = [];

    /// <summary>Those that were looked at so far.</summary>
    public IReadOnlyCollection<FilePlace> Known => known.Keys;

    /// <summary>Looks at a program, to its end. What can't be read is told as unreadable.</summary>
    public ProgramState Look(DiskVolume volume, IVolume files, string path)
    {
        var place = FilePlace.Of(volume, path);
        if (known.TryGetValue(place, out var seen)) return seen;
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

        known[place] = state;
        return state;
    }

    /// <summary>Forgets the programs of the volumes that a range belongs to.</summary>
    public void Forget(MachineDisk disk, ByteRange range)
    {
        if (known.Count == 0) return;
        foreach (var place in known.Keys
            .Where(place => place.DiskPath == disk.Path && disk.IsPartOf(place.Volume, range))
            .ToList())
        {
            known.Remove(place);
        }
    }
}

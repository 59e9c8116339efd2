using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Mending;

/// <summary>The recovery environments that a store doesn't name, though Windows knows where they are.</summary>
internal static class MissingRecovery
{
    /// <summary>Adds what a store lacks; null where it lacks nothing that is here.</summary>
    public static Remark? Add(Machine machine, BootStore store, Func<Guid> newId)
    {
        Remark? summary = null;
        foreach (var windows in store.WindowsEntries)
        {
            if (RecoveryCheck.MissingFor(machine, store, windows) is not { } image) continue;
            if (image.ToList() is not { } recovery) continue;
            RecoveryEntries.Put(store, machine.BootFiles, windows, recovery, newId);
            summary ??= Remark.Of("step.add-recovery", Fact.Path.Is(image.File), Fact.Volume.Is(image.Volume.Ref));
        }

        return summary;
    }
}

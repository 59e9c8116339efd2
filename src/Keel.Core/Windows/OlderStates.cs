using Keel.Core.Errors;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Snapshots;

namespace Keel.Core.Windows;

/// <summary>Looks for something sound in the snapshots of a volume, the youngest first.</summary>
public static class OlderStates
{
    /// <summary>As many as are looked into.</summary>
    private const int MostLooked = 64;

    /// <summary>What the youngest snapshot gives in which it is sound.</summary>
    /// <param name="volume">The volume.</param>
    /// <param name="find">Gives it from the files of a snapshot; null where it is not sound there.</param>
    /// <param name="problem">Why snapshots could not be looked into; null where they could, or where there are none.</param>
    /// <returns>What was found, and when the snapshot was made; null where no snapshot has it.</returns>
    public static (T Found, DateTimeOffset Made)? Youngest<T>(
        DiskVolume volume,
        Func<IVolume, T?> find,
        out KeelException? problem)
        where T : class
    {
        problem = null;
        try
        {
            using var snapshots = volume.OpenSnapshots();
            foreach (var snapshot in snapshots?.List.Take(MostLooked) ?? [])
            {
                if (TryFind(snapshots!, snapshot, find, ref problem) is { } found) return (found, snapshot.Made);
            }
        }
        catch (KeelException e)
        {
            problem = e;
        }

        return null;
    }

    private static T? TryFind<T>(VolumeSnapshots snapshots, Snapshot snapshot, Func<IVolume, T?> find, ref KeelException? problem)
        where T : class
    {
        try
        {
            return find(snapshots.Files(snapshot));
        }
        catch (KeelException e)
        {
            problem = e;        // a damaged snapshot does not keep from an older one
            return null;
        }
    }
}

using Keel.Core.Blocks;

namespace Keel.Core.Logbook;

/// <summary>The disks of one commit, all open or none.</summary>
internal sealed class OpenTargets : IDisposable
{
    private readonly List<IWritableBlocks?> targets = [];

    /// <param name="disks">The path of each, and whether anything is written to it; others are left alone.</param>
    public OpenTargets(IEnumerable<(string Path, bool IsWritten)> disks, Func<string, IWritableBlocks> open)
    {
        try
        {
            foreach (var (path, isWritten) in disks) targets.Add(isWritten ? open(path) : null);
        }
        catch
        {
            Dispose();
            throw;
        }
    }

    public IWritableBlocks this[int index] => targets[index]!;

    /// <summary>Flushes, and lets what is read next come from the devices.</summary>
    public void FlushAndForget()
    {
        foreach (var target in targets.OfType<IWritableBlocks>())
        {
            target.Flush();
            (target as DiskFile)?.ForgetCached();
        }
    }

    public void Dispose()
    {
        foreach (var target in targets.OfType<IDisposable>()) target.Dispose();
    }
}

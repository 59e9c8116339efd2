using Keel.Core.Blocks;

namespace Keel.Core.Logbook;

/// <summary>The disks of one commit, all open or none.</summary>
internal sealed class OpenTargets : IDisposable
{
    private readonly List<IWritableBlocks> targets = [];

    public OpenTargets(IEnumerable<string> paths, Func<string, IWritableBlocks> open)
    {
        try
        {
            foreach (var path in paths) targets.Add(open(path));
        }
        catch
        {
            Dispose();
            throw;
        }
    }

    public IWritableBlocks this[int index] => targets[index];

    /// <summary>Flushes, and lets what is read next come from the devices.</summary>
    public void FlushAndForget()
    {
        foreach (var target in targets)
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

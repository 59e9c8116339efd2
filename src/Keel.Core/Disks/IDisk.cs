using Keel.Core.Blocks;

namespace Keel.Core.Disks;

/// <summary>
/// A disk that was opened, whatever it lies in: a device, a plain image, a virtual disk, or one that is served.
/// </summary>
public interface IDisk : IWritableBlocks, IDisposable
{
    /// <summary>By what it is named: a full path with links resolved, or an address.</summary>
    string Path { get; }

    /// <summary>What its bytes lie in.</summary>
    DiskForm Form { get; }

    /// <summary>What was read from it and written to it, as the system was asked.</summary>
    BlockCounters Counters { get; }

    /// <summary>What tells it from another disk with the same name or contents; asks the system.</summary>
    DiskTraits Traits { get; }

    /// <summary>The first place from the given one on, in bytes, that may hold anything but zeros.</summary>
    long NextData(long offsetBytes);

    /// <summary>Lets the next reads come from stable storage, not from memory.</summary>
    void ForgetCached();
}

using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>The disk in a virtual disk file.</summary>
public interface IVirtualDisk : IWritableBlocks
{
    /// <summary>Whether it holds only what differs from another disk.</summary>
    bool HasParent { get; }

    /// <summary>Looks through its whole table: every block must lie in the file, and no two in one place.</summary>
    /// <exception cref="Errors.UnreadableException">It is damaged.</exception>
    void CheckTable();

    /// <summary>
    /// Looks for all that would keep it from being written, so that it is refused before anything begins: a saved machine, a
    /// log that can't be used, a damaged table.
    /// </summary>
    /// <exception cref="Errors.KeelException">It can't be written.</exception>
    void RefuseUnwritable();

    /// <summary>The first place from the given one on, in bytes, that may hold anything but zeros.</summary>
    long NextData(long offsetBytes);
}

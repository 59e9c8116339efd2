using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Microsoft.Win32.SafeHandles;

namespace Keel.Core.Logbook;

/// <summary>What one commit writes to, all open and held alone, or none.</summary>
internal sealed class Targets : IDisposable
{
    private readonly Dictionary<int, IWritableBlocks> disks = [];
    private SafeFileHandle? heldFolder;

    private Targets(string? variables) => Variables = variables;

    /// <summary>The folder of the firmware's variables; null where none are written.</summary>
    public string? Variables { get; }

    public IWritableBlocks this[int part] => disks[part];

    /// <param name="wanted">Each disk's number and path.</param>
    /// <param name="variables">The firmware's variables; null where the machine has none that keel can see.</param>
    /// <param name="open">Opens a disk for writing.</param>
    /// <exception cref="RefusedException">One of them is in use or read-only.</exception>
    public static Targets Open(IEnumerable<(int Part, string Path)> wanted, string? variables, Func<string, IWritableBlocks> open)
    {
        var targets = new Targets(variables);
        try
        {
            foreach (var (part, path) in wanted) targets.disks.Add(part, open(path));

            if (variables is not null) targets.heldFolder = HoldFolder(variables);
            return targets;
        }
        catch
        {
            targets.Dispose();
            throw;
        }
    }

    /// <summary>The same disks under the numbers of another record; disposed of with these.</summary>
    public Targets Renumbered(IReadOnlyList<int> parts)
    {
        var other = new Targets(Variables);
        for (var part = 0; part < parts.Count; part++) other.disks.Add(part, disks[parts[part]]);
        return other;
    }

    /// <summary>Has room kept for what is going to be written, where a target lies on a file system that could be full.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public void KeepRoom(int part, IEnumerable<ByteRange> ranges)
    {
        if (disks[part] is not DiskFile file) return;
        foreach (var range in ranges) file.KeepRoom(range);
    }

    /// <summary>
    /// Writes what differs, and nothing else: what stands there already needs neither room nor wear. What can't be read is
    /// written: a failing disk often takes what it no longer gives.
    /// </summary>
    public void WriteWhereOther(int part, long start, ReadOnlySpan<byte> bytes, Span<byte> now)
    {
        try
        {
            disks[part].Read(start, now);
            if (now.SequenceEqual(bytes)) return;
        }
        catch (KeelException)
        {
            // It is read back behind the write in any case.
        }

        disks[part].Write(start, bytes);
    }

    /// <summary>Flushes, and lets what is read next come from the devices.</summary>
    public void FlushAndForget()
    {
        foreach (var target in disks.Values)
        {
            target.Flush();
            (target as IDisk)?.ForgetCached();
        }
    }

    public void Dispose()
    {
        foreach (var target in disks.Values.OfType<IDisposable>()) target.Dispose();
        if (heldFolder is null) return;
        LinuxNative.Unlock(heldFolder);
        heldFolder.Dispose();
    }

    /// <summary>Asks the kernel about the variables' folder before anything is written.</summary>
    private static SafeFileHandle HoldFolder(string folder)
    {
        if (LinuxNative.WhyNotWritable(folder) is { } error)
        {
            throw new RefusedException(
                $"The firmware's variables in {folder} can't be written, and nothing was.",
                $"The system says: {LinuxNative.Words(error)}.",
                "Mount the folder for writing (mount -o remount,rw), and run keel as root.");
        }

        var handle = LinuxNative.HoldFolder(folder);
        return handle ?? throw new RefusedException(
            $"The firmware's variables in {folder} are being written by another program, and nothing was written by this one.",
            "It holds the folder.",
            "Wait for it to end, and run the same command again.");
    }
}

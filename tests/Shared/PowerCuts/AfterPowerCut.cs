using Keel.Core.Blocks;

namespace Keel.Tests;

/// <summary>What is left when the power goes after some of a trace's calls: a folder of the logbook, and the disks.</summary>
/// <remarks>
/// The strict reading: a name is there once its folder was flushed after it, and bytes once their file or disk was. What was
/// not flushed
/// may be there or not: one choice for all of it is made by <see cref="Reading"/>.
/// </remarks>
internal sealed class AfterPowerCut(IReadOnlyList<StorageCall> calls, int count, AfterPowerCut.Reading reading)
{
    /// <summary>What becomes of what was never flushed.</summary>
    internal enum Reading
    {
        /// <summary>All of it is lost.</summary>
        Lost,

        /// <summary>All of it is there.</summary>
        Kept,

        /// <summary>Every other of it is there, the last write half.</summary>
        Mixed
    }

    private sealed class Node
    {
        public readonly MemoryStream Written = new();
        public int DurableLength;
    }

    /// <summary>Builds the logbook's folder as it would be found.</summary>
    /// <param name="root">The folder in the trace under which everything is.</param>
    /// <param name="target">Where it is built.</param>
    public void BuildFolder(string root, string target)
    {
        var now = new Dictionary<string, Node?>(StringComparer.Ordinal);       // null: a folder
        var durable = new Dictionary<string, Node?>(StringComparer.Ordinal);
        foreach (var call in calls.Take(count))
        {
            switch (call.Kind)
            {
                case StorageCallKind.CreateFolder:
                    now[call.Path] = null;
                    break;
                case StorageCallKind.CreateFile:
                    now[call.Path] = new Node();
                    break;
                case StorageCallKind.Append:
                    now[call.Path]!.Written.Write(call.Bytes);
                    break;
                case StorageCallKind.FlushFile:
                    now[call.Path]!.DurableLength = (int)now[call.Path]!.Written.Length;
                    break;
                case StorageCallKind.Rename:
                    now[call.Target] = now[call.Path];
                    now.Remove(call.Path);
                    break;
                case StorageCallKind.DeleteFolder:
                    foreach (var path in now.Keys
                        .Where(path => path == call.Path || path.StartsWith(call.Path + '/', StringComparison.Ordinal))
                        .ToList())
                    {
                        now.Remove(path);
                    }

                    break;
                case StorageCallKind.FlushFolder:
                    FlushNames(now, durable, call.Path);
                    break;
                default:
                    break;
            }
        }

        var names = reading == Reading.Lost ? durable : now;
        foreach (var (path, node) in names.OrderBy(entry => entry.Key, StringComparer.Ordinal))
        {
            if (!IsReachable(names, path, root)) continue;
            var place = target + path[root.Length..];
            Directory.CreateDirectory(node is null ? place : Path.GetDirectoryName(place)!);
            if (node is not null) File.WriteAllBytes(place, Contents(node));
        }
    }

    /// <summary>Brings a disk, as it was before the trace, to what would be found on it.</summary>
    public void BuildDisk(string name, IWritableBlocks disk)
    {
        var pending = new List<StorageCall>();
        foreach (var call in calls.Take(count).Where(call => call.Path == name))
        {
            if (call.Kind == StorageCallKind.WriteDisk) pending.Add(call);
            if (call.Kind != StorageCallKind.FlushDisk) continue;
            foreach (var write in pending) Put(disk, write, write.Bytes.Length);
            pending.Clear();
        }

        for (var index = 0; index < pending.Count; index++)
        {
            var isLast = index == pending.Count - 1;
            if (reading == Reading.Kept) Put(disk, pending[index], pending[index].Bytes.Length);
            if (reading == Reading.Mixed && (isLast || index % 2 == 0))
                Put(disk, pending[index], isLast ? pending[index].Bytes.Length / 1024 * 512 : pending[index].Bytes.Length);
        }
    }

    /// <summary>Files of a logbook only grow.</summary>
    private byte[] Contents(Node node)
    {
        var (written, durable) = ((int)node.Written.Length, node.DurableLength);
        var length = reading switch
        {
            Reading.Lost => durable,
            Reading.Kept => written,
            _ => durable + ((written - durable) / 2)
        };
        return node.Written.GetBuffer().AsSpan(0, length).ToArray();
    }

    private static void Put(IWritableBlocks disk, StorageCall write, int length) =>
        disk.Write(write.Offset, write.Bytes.AsSpan(0, length));

    private static void FlushNames(Dictionary<string, Node?> now, Dictionary<string, Node?> durable, string folder)
    {
        bool IsIn(string path) => Path.GetDirectoryName(path) == folder;
        foreach (var path in durable.Keys.Where(IsIn).Where(path => !now.ContainsKey(path)).ToList()) durable.Remove(path);
        foreach (var (path, node) in now.Where(entry => IsIn(entry.Key))) durable[path] = node;
    }

    /// <summary>A folder that the trace never made was there before it.</summary>
    private bool IsReachable(Dictionary<string, Node?> names, string path, string root)
    {
        for (var at = Path.GetDirectoryName(path)!; at.Length > root.Length; at = Path.GetDirectoryName(at)!)
        {
            if (!names.ContainsKey(at) && calls.Any(call => call.Kind == StorageCallKind.CreateFolder && call.Path == at))
                return false;
        }

        return path.StartsWith(root, StringComparison.Ordinal);
    }
}

using System.Buffers.Binary;
using Keel.Core.Blocks;

namespace Keel.Core.Hives;

/// <summary>
/// Finds keys in a hive whose way down from the root is broken, by looking at every place where a cell can stand.
/// </summary>
public static class HiveSalvage
{
    private const int CellUnitBytes = 8, CellLimit = 4_000_000;

    /// <summary>
    /// Every readable key that the test takes, with what hangs below it. Says what could not be read below them.
    /// </summary>
    /// <param name="file">The bytes of the hive.</param>
    /// <param name="wanted">Takes a key by its name.</param>
    /// <param name="losses">Takes what was lost.</param>
    public static IReadOnlyList<HiveNode> Find(byte[] file, Func<string, bool> wanted, List<string> losses)
    {
        var bins = (uint)Math.Max(0, file.Length - HiveHeader.Size);
        var hive = Hive.Salvage(new MemoryBlocks(file), bins);
        var found = new List<HiveNode>();
        for (uint offset =
            32; offset + CellUnitBytes < bins && offset / CellUnitBytes < CellLimit && !hive.IsExhausted; offset += CellUnitBytes)
        {
            var at = HiveHeader.Size + (int)offset;
            if (file[at + 4] != 'n' || file[at + 5] != 'k' || BinaryPrimitives.ReadInt32LittleEndian(file.AsSpan(at)) >= 0)
                continue;
            try
            {
                var key = HiveKey.Read(hive, offset);
                if (wanted(key.Name)) found.Add(hive.ReadTree(key));
            }
            catch (HiveDamagedException)
            {
                // A cell that only looks like a key.
            }
        }

        losses.AddRange(hive.Damage);
        return found;
    }
}

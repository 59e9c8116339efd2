using Keel.Core.Chain.Checks;
using Keel.Core.Hives;
using Keel.Core.Store;

namespace Keel.Core.Chain;

/// <summary>What is wrong with a store, apart from the rest of the chain.</summary>
public static class StoreHealth
{
    /// <summary>A store inside a disk: what the links from the store on say.</summary>
    public static IReadOnlyList<Finding> Of(Machine machine) =>
        [.. Walk.Of(machine).Findings.Where(finding => finding.Link is Link.Store or Link.ManagerEntry or Link.WindowsEntry or Link.LoaderFile)];

    /// <summary>A store by itself: whether it loads, and what dangles in it.</summary>
    public static IReadOnlyList<Finding> Of(byte[] file)
    {
        BootStore store;
        try
        {
            var header = Hive.Open(file).Header;
            if (HiveHeader.Size + (long)header.BinsBytes > file.Length) return [StoreCheck.Truncated.At($"it has {file.Length} bytes of the {HiveHeader.Size + (long)header.BinsBytes} that its header speaks of")];
            if (!header.ChecksumMatches) return [StoreCheck.BadChecksum.At("the checksum of its base block is wrong")];
            store = BootStore.Read(file);
        }
        catch (HiveDamagedException e)
        {
            return [StoreCheck.Damaged.At(e.Why)];
        }

        if (store.Damage.Count > 0) return [StoreCheck.Damaged.At(store.Damage[0])];
        if (store.Entries.Count == 0) return [StoreCheck.NoEntries.At("it is a valid hive with no entry in it")];
        return [.. ManagerEntryCheck.FindingsOf(store), .. store.WindowsEntries.Count == 0 ? [WindowsEntryCheck.Missing.At("none of its entries starts Windows")] : Array.Empty<Finding>()];
    }
}

using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>What is wrong with a hive that Windows loads at its start.</summary>
internal static class HiveHealth
{
    /// <summary>Longer ones are judged by their head: reading them whole would take more time than a look may.</summary>
    private const int WholeBytes = 64 * 1024 * 1024;

    /// <summary>What its head shows; null where that is sound, or the hive is not there.</summary>
    /// <param name="files">The volume.</param>
    /// <param name="path">The path of the hive.</param>
    /// <param name="where">Path and volume, as facts.</param>
    public static Remark? OfHead(IVolume files, string path, IReadOnlyList<KnownFact> where)
    {
        if (files.Find(path) is not { IsFolder: false } file) return null;
        if (file.SizeBytes < 2 * HiveHeader.Size)
        {
            return Remark.Of(
                "hive.too-short",
                [.. where, Fact.SizeBytes.Is(file.SizeBytes), Fact.NeededBytes.Is(2 * HiveHeader.Size)]);
        }

        if (HiveHeader.TryRead(files.OpenFile(path).ReadBytes(0, HiveHeader.Size)) is not { } header)
            return Remark.Of("hive.no-mark", where);
        var needed = HiveHeader.Size + (long)header.BinsBytes;
        return header.IsClean && needed > file.SizeBytes
            ? Remark.Of("hive.cut-short", [.. where, Fact.SizeBytes.Is(file.SizeBytes), Fact.NeededBytes.Is(needed)])
            : null;
    }

    /// <summary>The same, and every bin, cell and key of it; its logs count where it was not closed.</summary>
    /// <exception cref="ReadFailedException">The disk does not give it.</exception>
    public static Remark? OfAll(IVolume files, string path, IReadOnlyList<KnownFact> where)
    {
        if (OfHead(files, path, where) is { } head) return head;
        if (files.Find(path) is not { IsFolder: false, SizeBytes: <= WholeBytes }) return null;
        try
        {
            var bytes = files.ReadFile(path, WholeBytes);
            if (HiveHeader.TryRead(bytes) is { IsClean: false })
                bytes = HiveLog.Apply(bytes, HiveLogFiles.Read(files, path, WholeBytes)) ?? bytes;
            var hive = Hive.Open(bytes);
            var broken = hive.FirstBroken();
            if (broken is null) _ = hive.ReadTree();
            return (broken ?? hive.Damage.FirstOrDefault()) is { } said
                ? Remark.Of("hive.said", [.. where, Fact.Said.Is(said)])
                : null;
        }
        catch (ReadFailedException)
        {
            throw;
        }
        catch (KeelException e)
        {
            return Remark.Of("hive.said", [.. where, Fact.Said.Is(e.Why)]);
        }
    }
}

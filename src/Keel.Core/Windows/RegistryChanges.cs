using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>Changes of single values in the hives of a Windows, in place.</summary>
public static class RegistryChanges
{
    /// <summary>Why a hive is not changed in place; null where it can be: a torn one gets the rest from its logs first.</summary>
    /// <param name="files">The volume.</param>
    /// <param name="path">The path of the hive.</param>
    public static Remark? WhyNot(IVolume files, string path)
    {
        if (files.Find(path) is not { IsFolder: false } file) return Remark.Of("hive.missing", Fact.Path.Is(path));
        if (file.SizeBytes < HiveHeader.Size
            || HiveHeader.TryRead(files.OpenFile(path).ReadBytes(0, HiveHeader.Size)) is not { } header)
        {
            return Remark.Of("hive.no-mark", Fact.Path.Is(path));
        }

        return header.IsClean ? null : Remark.Of("hive.not-closed", Fact.Path.Is(path));
    }

    /// <summary>Gives a value other data of the same type; whether there was such a value.</summary>
    /// <exception cref="RefusedException">There is no room in the hive.</exception>
    public static bool SetData(IVolume files, string path, string key, string name, byte[] data) =>
        Apply(files, path, (file, root) => root.Find(key) is { } found ? HivePatches.SetData(file, found, name, data) : []);

    /// <summary>Gives a value another type; whether there was such a value.</summary>
    public static bool SetType(IVolume files, string path, string key, string name, uint type) =>
        Apply(files, path, (_, root) => root.Find(key) is { } found ? HivePatches.SetType(found, name, type) : []);

    /// <summary>Takes a value out of a key; whether there was such a value.</summary>
    public static bool Remove(IVolume files, string path, string key, string name) =>
        Apply(files, path, (file, root) => root.Find(key) is { } found ? HivePatches.Remove(file, found, name) : []);

    private static bool Apply(IVolume files, string path, Func<IReadableBlocks, HiveKey, IReadOnlyList<HivePatch>> change)
    {
        var file = new CachedBlocks(files.OpenFile(path));
        var patches = change(file, Hive.Open(file).Root);
        foreach (var patch in patches) files.Patch(path, patch.At, patch.Bytes);
        return patches.Count > 0;
    }
}

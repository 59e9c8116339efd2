using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>A folder of a volume as a tree to copy from.</summary>
internal sealed class VolumeTree(DiskVolume volume, string top) : IFileTree
{
    public string Name => $"{(top.Length > 0 ? top : @"\")} on {volume}";

    public bool FolderExists(string path) => volume.Files?.FolderExists(At(path)) ?? false;

    public bool FileExists(string path) => volume.Files?.FileExists(At(path)) ?? false;

    public IReadOnlyList<(string Name, bool IsFolder, long SizeBytes)> List(string path) =>
        [.. volume.Files?.List(At(path)).Select(file => (file.Name, file.IsFolder, file.SizeBytes)) ?? []];

    public byte[] Read(string path) => volume.Files!.ReadFile(At(path));

    private string At(string path) => path.Length > 0 ? $@"{top}\{path}" : top;
}

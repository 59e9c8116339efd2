using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>
/// Where copies of a file may be, the nearest first: the installation's own stores, its snapshots, another Windows of the
/// machine, then what was named.
/// </summary>
/// <param name="machine">The machine.</param>
/// <param name="installation">The installation.</param>
/// <param name="files">The files of its volume.</param>
/// <param name="sources">What was named.</param>
internal sealed class FileCopies(
    Machine machine,
    WindowsInstallation installation,
    IVolume files,
    IReadOnlyList<IFileTree> sources)
{
    /// <summary>The copies of a file.</summary>
    public IEnumerable<FileCopy> Of(CheckedFile file)
    {
        var name = VolumeExtensions.NameOf(file.Path);
        var spares = SpareCopies.Find(installation.Volume, files, installation.Folder, name, machine.Processor)
            .Where(copy => !copy.Path.Equals(file.Path, StringComparison.OrdinalIgnoreCase))
            .Where(copy => !copy.IsStaged(installation.Revision));
        foreach (var copy in spares)
        {
            yield return OnVolume(files, installation.Volume, copy.Path, isOfInstallation: true);
        }

        var older = OlderStates.Youngest(
            installation.Volume,
            snapshot => snapshot.FileExists(file.Path) ? snapshot.ReadFile(file.Path) : null,
            out _);
        if (older is { } state)
        {
            var source = $"the snapshot of {state.Made:yyyy-MM-dd HH:mm}";
            yield return InMemory(source, file.Path, state.Found, isOfInstallation: true);
        }

        foreach (var copy in new OutsideCopies(machine, installation, sources).Of(file.Path))
            yield return InMemory(copy.Source, file.Path, copy.Bytes, isOfInstallation: false);
    }

    /// <summary>Writing closes a volume, so it is looked up again by whoever reads the copy.</summary>
    private FileCopy OnVolume(IVolume from, DiskVolume volume, string path, bool isOfInstallation) => new(
        $"{path} on {volume}",
        FileReading.Of(from, path, from.Find(path)!),
        isOfInstallation,
        () => Locks.FilesOf(machine.Volumes.First(one => one.Ref == volume.Ref)).ReadFile(path, int.MaxValue));

    private static FileCopy InMemory(string source, string path, byte[] bytes, bool isOfInstallation)
    {
        var file = new VolumeFile(VolumeExtensions.NameOf(path), false, bytes.Length, FileMarks.None);
        return new FileCopy(source, new FileReading(path, file).With(bytes), isOfInstallation, () => bytes);
    }
}

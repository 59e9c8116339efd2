using Keel.Core.Errors;

namespace Keel.Core.Disks.Virtual;

/// <summary>Virtual disk files beside one that hold only what differs from it: they would be broken by a write to it.</summary>
/// <param name="format">The format of the file, and so of its children.</param>
internal sealed class ChildFiles(FileFormat format)
{
    private const int MostFiles = 1000;

    /// <summary>How such files are called; snapshots have the letter in front.</summary>
    private static readonly string[] Endings = [".vhd", ".vhdx", ".avhd", ".avhdx"];

    /// <exception cref="RefusedException">A file beside it differs from it.</exception>
    public void RefuseIfAny(string path)
    {
        if (IdOf(path) is not { } id || Path.GetDirectoryName(path) is not { } folder) return;
        foreach (var other in Beside(folder).Where(other => other != path))
        {
            if (ParentIdOf(other) == id) throw VirtualDiskErrors.HasChildren(path, other);
        }
    }

    private static IEnumerable<string> Beside(string folder)
    {
        try
        {
            return
            [
                .. Directory.EnumerateFiles(folder)
                    .Where(path => Endings.Any(ending => path.EndsWith(ending, StringComparison.OrdinalIgnoreCase)))
                    .Take(MostFiles)
            ];
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return [];
        }
    }

    private Guid? IdOf(string path) => Read(path, file => format == FileFormat.Vhdx
        ? VhdxHeaders.Read(file).Current.DataWriteId
        : VhdContents.Read(file).Footer.Id);

    private Guid? ParentIdOf(string path) => Read(path, file =>
    {
        if (FileFormats.Of(file) != format) return null;
        if (format == FileFormat.Vhdx) return VhdxContents.Read(file).Parent?.Id;
        var contents = VhdContents.Read(file);
        return contents.IsDifferencing ? contents.Header!.Value.ParentId : null;
    });

    /// <summary>What a file says; null where it can't be read, and so differs from nothing that anybody could know.</summary>
    private static Guid? Read(string path, Func<DiskFile, Guid?> read)
    {
        try
        {
            using var file = DiskFile.Open(path);
            return read(file);
        }
        catch (KeelException)
        {
            return null;
        }
    }
}

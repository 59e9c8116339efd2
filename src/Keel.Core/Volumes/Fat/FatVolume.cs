using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Fat;

/// <summary>A FAT12, FAT16 or FAT32 volume.</summary>
public sealed class FatVolume : IVolume
{
    private const uint InfoLead = 0x41615252, InfoMark = 0x61417272;
    private const int PieceBytes = 1024 * 1024;
    private const int InfoMarkAt = 484, FreeCountAt = 488;
    private readonly FatSpace space;
    private readonly string name;
    private bool isWritable;
    private readonly Dictionary<uint, FatFolder> folders = [];

    private FatVolume(FatSpace space, string name, bool isWritable)
    {
        this.space = space;
        this.name = name;
        this.isWritable = isWritable;
        var label = FatFolder.Root(space).Label;
        Label = label.Length > 0 ? label : space.Parameters.Label == "NO NAME" ? "" : space.Parameters.Label;
    }

    /// <inheritdoc/>
    public FileSystemKind Kind => space.Parameters.Kind;

    /// <inheritdoc/>
    public string Label { get; }

    /// <inheritdoc/>
    public long FreeBytes => (long)space.Table.FreeClusters() * space.Parameters.ClusterBytes;

    internal FatSpace Space => space;

    /// <summary>Opens a volume; for looking unless it is said otherwise.</summary>
    /// <exception cref="UnreadableException">Its parameters are not those of a FAT volume of this size.</exception>
    public static FatVolume Open(IWritableBlocks partition, string name, bool forWriting = false, TimeProvider? clock = null)
    {
        var parameters = partition.TryRead(0, FatBootSector.Size) is { } sector ? FatBootSector.TryRead(sector) : null;
        if (parameters is null
            || parameters.TotalSectors * parameters.BytesPerSector > partition.LengthBytes
            || parameters.OnlyFat >= parameters.FatCount)
        {
            throw new UnreadableException(
                $"{name} can't be read as FAT.",
                parameters is null
                    ? "Its first sector is damaged."
                    : $"Its file system has {parameters.TotalSectors} sectors of {parameters.BytesPerSector} bytes, and the "
                        + $"partition {partition.LengthBytes} bytes.",
                "If this is an image, compare its size with the disk's; otherwise restore the boot sector: keel sector restore "
                    + "DISK");
        }

        var table = new FatTable(partition, parameters);
        return parameters.Kind != FileSystemKind.Fat32 || table.IsCluster(parameters.RootCluster)
            ? new FatVolume(new FatSpace(partition, parameters, table, clock ?? TimeProvider.System), name, forWriting)
            : throw new UnreadableException(
                $"{name} can't be read as FAT.",
                $"Its root folder is said to begin at cluster {parameters.RootCluster}, which it does not have.",
                "Restore the boot sector: keel sector restore DISK");
    }

    /// <inheritdoc/>
    public VolumeFile? Find(string path) => path.Trim('\\').Length == 0
        ? new VolumeFile("", IsFolder: true, 0, FileMarks.Folder)
        : Locate(path)?.Entry.ToFile();

    /// <inheritdoc/>
    public IReadOnlyList<VolumeFile> List(string folder) => [.. FolderAt(folder)?.Entries.Select(entry => entry.ToFile()) ?? []];

    /// <inheritdoc/>
    public IReadableBlocks OpenFile(string path)
    {
        var entry = Locate(path)?.Entry ?? throw Missing(path, "opened");
        return entry.IsFolder
            ? throw new UnreadableException(
                $"{path} can't be read as a file.",
                "A folder stands in its place.",
                "Rename the folder, and recreate the file.")
            : new FatFile(space, entry, path);
    }

    /// <inheritdoc/>
    public void WriteFile(string path, ReadOnlySpan<byte> contents) => WriteFile(path, new MemoryBlocks(contents.ToArray()));

    /// <inheritdoc/>
    public void WriteFile(string path, IReadableBlocks contents)
    {
        if (contents.LengthBytes > uint.MaxValue)
        {
            throw new UnreadableException(
                $"{path} can't be written.",
                "A file of a FAT volume has at most 4 GiB less one byte.",
                "Put it on an NTFS volume.");
        }

        var length = (uint)contents.LengthBytes;
        var existing = Locate(path);
        if (existing is { Entry.IsFolder: true })
        {
            throw new UnreadableException(
                $"{path} can't be written.",
                "A folder stands in its place.",
                "Rename the folder first.");
        }

        if (existing is not var (folder, entry))
        {
            folder = FolderAt(VolumeExtensions.FolderOf(path)) ?? throw Missing(VolumeExtensions.FolderOf(path), "opened");
            folder.Add(VolumeExtensions.NameOf(path), FileMarks.Archive, Store(contents), length);
            return;
        }

        space.Table.Free(entry.FirstCluster);
        var first = Store(contents);
        folder.Change(entry, slot =>
        {
            FatEntry.SetPlace(slot, first, length);
            FatEntry.Touch(slot, space.Clock.GetLocalNow());
        });
    }

    /// <inheritdoc/>
    public void Patch(string path, long offsetBytes, ReadOnlySpan<byte> bytes) =>
        new FatFile(space, Locate(path)?.Entry ?? throw Missing(path, "written"), path).Patch(offsetBytes, bytes);

    /// <inheritdoc/>
    public void Grow(string path, long lengthBytes) => throw new UnreadableException(
        $"{path} can't be made longer.",
        "On a FAT volume keel makes no file longer in its place.",
        "Copy the file to an NTFS volume, or mend it by itself.");

    /// <inheritdoc/>
    public DateTimeOffset? WrittenAt(string path) => Locate(path)?.Entry.Written;

    /// <inheritdoc/>
    public void CreateFolder(string path)
    {
        if (path.Length == 0 || this.FolderExists(path)) return;
        CreateFolder(VolumeExtensions.FolderOf(path));
        if (Locate(path) is not null)
        {
            throw new UnreadableException(
                $"The folder {path} can't be created.",
                "A file stands in its place.",
                "Rename the file first.");
        }

        var parent = FolderAt(VolumeExtensions.FolderOf(path))!;
        var cluster = space.Table.Take(1, after: 0)[0];
        var range = space.RangeOf(cluster);
        var contents = new byte[range.Length];
        var now = space.Clock.GetLocalNow();
        var isInRoot = VolumeExtensions.FolderOf(path).Trim('\\').Length == 0;
        FatEntry.NewSlot(".          "u8, FileMarks.Folder, cluster, 0, now).CopyTo(contents, 0);
        FatEntry
            .NewSlot("..         "u8, FileMarks.Folder, isInRoot ? 0 : parent.FirstCluster, 0, now)
            .CopyTo(contents, FatEntry.SlotBytes);
        space.Partition.Write(range.Start, contents);
        parent.Add(VolumeExtensions.NameOf(path), FileMarks.Folder, cluster, 0);
    }

    /// <inheritdoc/>
    public void Rename(string path, string newName)
    {
        var (folder, entry) = Locate(path) ?? throw Missing(path, "renamed");
        if (folder.Find(newName) is { } other && other.FirstSlot != entry.FirstSlot)
        {
            throw new WrongUsageException(
                $"{path} can't be renamed to {newName}.",
                "A file of that name is there already.",
                "Choose another name.");
        }

        folder.Remove(entry);
        folder.Add(newName, entry.Marks, entry.FirstCluster, entry.SizeBytes);
    }

    /// <inheritdoc/>
    public void Delete(string path)
    {
        var (folder, entry) = Locate(path) ?? throw Missing(path, "deleted");
        if (entry.IsFolder && Folder(entry.FirstCluster).Entries.Count > 0)
            throw new UnreadableException($"{path} can't be deleted.", "The folder is not empty.", "Delete what is in it first.");
        space.Table.Free(entry.FirstCluster);
        folders.Remove(entry.FirstCluster);
        folder.Remove(entry);
    }

    /// <inheritdoc/>
    public void SetMarks(string path, FileMarks marks)
    {
        var (folder, entry) = Locate(path) ?? throw Missing(path, "given attributes");
        folder.Change(entry, slot => FatEntry.SetMarks(slot, marks));
    }

    /// <inheritdoc/>
    public void SetWritten(string path, DateTimeOffset time)
    {
        var (folder, entry) = Locate(path) ?? throw Missing(path, "given a time");
        folder.Change(entry, slot => FatEntry.Touch(slot, time));
    }

    /// <summary>
    /// Closes the volume where that has not been done; what goes wrong then was for <see cref="Close"/> to say.
    /// </summary>
    public void Dispose()
    {
        try
        {
            Close();
        }
        catch (KeelException)
        {
            isWritable = false;
        }
    }

    /// <summary>Writes the copies of the table, and the count of free clusters.</summary>
    public void Close()
    {
        if (!isWritable) return;
        isWritable = false;
        space.Table.Flush();
        if (Kind != FileSystemKind.Fat32 || space.Parameters.InfoSector is 0 or 0xFFFF) return;
        var at = (long)space.Parameters.InfoSector * space.Parameters.BytesPerSector;
        if (space.Partition.TryRead(at, FatBootSector.Size) is not { } info
            || BinaryPrimitives.ReadUInt32LittleEndian(info) != InfoLead
                || BinaryPrimitives.ReadUInt32LittleEndian(info.AsSpan(InfoMarkAt)) != InfoMark)
        {
            return;
        }

        BinaryPrimitives.WriteUInt32LittleEndian(info.AsSpan(FreeCountAt), space.Table.FreeClusters());
        space.Partition.Write(at, info);
    }

    /// <summary>
    /// Where the root folder is empty, nothing leads to what is still taken: gives those clusters back, and puts the label into
    /// the root folder again. Gives how many clusters were freed; nothing is done where any file is left.
    /// </summary>
    internal int ReleaseAll()
    {
        var root = FatFolder.Root(space);
        if (root.Entries.Count > 0) return 0;
        var freed = 0;
        var taken = new HashSet<uint>(Kind == FileSystemKind.Fat32 ? space.Table.Chain(space.Parameters.RootCluster) : []);
        for (var cluster = FatTable.FirstCluster; cluster < space.Table.Limit; cluster++)
        {
            var value = space.Table.Get(cluster);
            if (value == 0 || space.Table.IsBad(value) || taken.Contains(cluster)) continue;
            space.Table.Set(cluster, 0);
            freed++;
        }

        if (root.Label.Length == 0 && Label.Length > 0) WriteLabel();
        return freed;
    }

    /// <summary>Writes the label into the first slot of an empty root folder.</summary>
    private void WriteLabel()
    {
        var place = space.RootRange ?? space.RangeOf(space.Parameters.RootCluster);
        if (space.Partition.ReadBytes(place.Start, 1)[0] != 0) return;
        space.Partition.Write(place.Start, FatEntry.NewSlot(
            System.Text.Encoding.Latin1.GetBytes(Label.PadRight(FatNames.ShortBytes)),
            FatEntry.LabelMark,
            firstCluster: 0,
            sizeBytes: 0,
            space.Clock.GetLocalNow()));
        folders.Clear();
    }

    /// <summary>Writes contents to free clusters, and gives the first; 0 for an empty file.</summary>
    private uint Store(IReadableBlocks contents)
    {
        if (contents.LengthBytes == 0) return 0;
        var clusters = space.Table.Take(space.ClustersFor(contents.LengthBytes), after: 0);
        var buffer = new byte[(int)Math.Min(PieceBytes, contents.LengthBytes)];
        var done = 0L;
        foreach (var run in space.Runs(clusters))
        {
            for (var at = run.Start; at < run.End && done < contents.LengthBytes;)
            {
                var piece = buffer.AsSpan(0, (int)Math.Min(buffer.Length, Math.Min(run.End - at, contents.LengthBytes - done)));
                contents.Read(done, piece);
                space.Partition.Write(at, piece);
                at += piece.Length;
                done += piece.Length;
            }
        }

        return clusters[0];
    }

    private (FatFolder Folder, FatEntry Entry)? Locate(string path)
    {
        var folder = FolderAt(VolumeExtensions.FolderOf(path.TrimEnd('\\')));
        return folder?.Find(VolumeExtensions.NameOf(path.TrimEnd('\\'))) is { } entry ? (folder, entry) : null;
    }

    /// <summary>A folder, read once while the volume is open; 0 is the root.</summary>
    private FatFolder Folder(uint cluster)
    {
        if (folders.TryGetValue(cluster, out var known)) return known;
        var folder = FatFolder.At(space, cluster);
        folders.Add(cluster, folder);
        return folder;
    }

    private FatFolder? FolderAt(string path)
    {
        var folder = Folder(0);
        foreach (var part in path.Split('\\', StringSplitOptions.RemoveEmptyEntries))
        {
            if (folder.Find(part) is not { IsFolder: true } entry || !space.Table.IsCluster(entry.FirstCluster)) return null;
            folder = Folder(entry.FirstCluster);
        }

        return folder;
    }

    private UnreadableException Missing(string path, string verb) =>
        new($"{path} can't be {verb}.", $"It is not on {name}.", "'keel files list' shows the boot files that are there.");
}

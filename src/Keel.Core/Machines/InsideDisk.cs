using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Disks.Virtual;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>
/// A virtual disk in a file of a volume of another disk. It is looked at through all layers, and written through them.
/// </summary>
public sealed class InsideDisk : IDisk
{
    /// <summary>Why a file can't be opened: the file that it differs from is not there.</summary>
    internal const string ParentMissing = "inside.parent-missing";

    private const int DeepestChain = 64;
    private readonly IVirtualDisk disk;

    private InsideDisk(MachineDisk host, InsidePath place, DiskForm form, IVirtualDisk disk)
    {
        Host = host;
        Place = place;
        Form = form;
        this.disk = disk;
    }

    /// <summary>Whether it holds only what differs from another disk.</summary>
    public bool HasParent => disk.HasParent;

    /// <summary>Whether all that its table names is in the file.</summary>
    /// <exception cref="UnreadableException">It is damaged, or cut short.</exception>
    public void CheckTable() => disk.CheckTable();

    /// <summary>The disk that its file is on.</summary>
    public MachineDisk Host { get; }

    /// <summary>Where its file is.</summary>
    public InsidePath Place { get; }

    /// <summary>The place in words, and no path of this computer.</summary>
    public string Path => NameOf(Host, Place);

    /// <inheritdoc/>
    public DiskForm Form { get; }

    /// <inheritdoc/>
    public BlockCounters Counters { get; } = new();

    /// <inheritdoc/>
    public DiskTraits Traits => DiskTraits.None;

    /// <inheritdoc/>
    public long LengthBytes => disk.LengthBytes;

    /// <inheritdoc/>
    public int SectorBytes => disk.SectorBytes;

    /// <summary>Opens a virtual disk inside a disk, for looking.</summary>
    /// <exception cref="UnreadableException">There is no such volume or file, or it holds no whole virtual disk.</exception>
    public static InsideDisk Open(MachineDisk host, InsidePath place)
    {
        var files = () => FilesOf(host, place);
        var file = new FileInVolume(files, place.File);
        return new InsideDisk(host, place, FormOf(file, place), OpenDisk(files, file, place.File, depth: 0));
    }

    /// <summary>What a disk inside another is called.</summary>
    public static string NameOf(MachineDisk host, InsidePath place) => $"{host.Path}, {place}";

    /// <summary>Writes what changed on the disk into its file, and so into the overlay of the disk that the file is on.</summary>
    /// <exception cref="RefusedException">The volume can't be written.</exception>
    internal void Fold(DiskChanges changes)
    {
        if (!changes.Any) return;
        VolumeOf(Host, Place).Edit(files =>
        {
            var file = new FileInVolume(() => files, Place.File);
            RefusePacked(files);
            var target = OpenDisk(() => files, file, Place.File, depth: 0);
            foreach (var range in changes.Ranges)
            {
                var bytes = new byte[range.Length];
                changes.CopyAfter(range, bytes);
                target.Write(range.Start, bytes);
            }
        });
    }

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        Counters.CountRead(buffer.Length);
        disk.Read(offsetBytes, buffer);
    }

    /// <summary>Not so: it is changed in an overlay, which is folded into its file.</summary>
    public void Write(long offsetBytes, ReadOnlySpan<byte> data) =>
        throw new InvalidOperationException("A disk inside another is written through its overlay.");

    /// <inheritdoc/>
    public long NextData(long offsetBytes) => disk.NextData(offsetBytes);

    /// <inheritdoc/>
    public void Flush()
    {
    }

    /// <inheritdoc/>
    public void ForgetCached()
    {
    }

    /// <inheritdoc/>
    public void Dispose()
    {
    }

    private void RefusePacked(IVolume files)
    {
        const FileMarks packed = FileMarks.Compressed | FileMarks.Encrypted | FileMarks.Sparse | FileMarks.Reparse;
        if (files.Find(Place.File) is not { } file || (file.Marks & packed) == FileMarks.None) return;
        throw new RefusedException(
            $"{Place.File} can't be written in its place.",
            "Its volume keeps it compressed, encrypted or sparse, and Windows starts from no such file.",
            "Unpack it first, from Windows or on another disk.");
    }

    private static DiskForm FormOf(FileInVolume file, InsidePath place) => FileFormats.Of(file) switch
    {
        FileFormat.Vhd => DiskForm.Vhd,
        FileFormat.Vhdx => DiskForm.Vhdx,
        var format => throw new UnreadableException(
            $"{place.File} holds no virtual disk that keel reads inside a volume.",
            format == FileFormat.Raw
                ? "It has neither the mark of a VHD nor that of a VHDX."
                : $"It is a disk in {FileFormats.Name(format)} form.",
            "Windows starts from VHD and VHDX files only.")
    };

    private static IVirtualDisk OpenDisk(Func<IVolume> files, FileInVolume file, string path, int depth)
    {
        if (depth > DeepestChain) throw VirtualDiskErrors.Damaged("VHD", "the chain of its parents has no end");
        if (VhdxContents.IsIn(file))
        {
            return VhdxDisk.Open(file, claim =>
            {
                var parent = (VhdxDisk)Parent(files, path, claim, isVhdx: true, depth);
                return parent.DataWriteId == claim.Id ? parent : throw AnotherParent(path);
            });
        }

        var contents = VhdContents.Read(file);
        if (!contents.IsDifferencing) return new VhdDisk(file, contents, parent: null);
        var names = VhdParentNames.Of(file, contents.Header!.Value);
        var older = (VhdDisk)Parent(files, path, new ParentClaim(names, contents.Header.Value.ParentId), isVhdx: false, depth);
        return older.Id == contents.Header.Value.ParentId
            ? new VhdDisk(file, contents, older)
            : throw AnotherParent(path);
    }

    /// <summary>In the folder of the child, else by its path on the same volume.</summary>
    private static IVirtualDisk Parent(Func<IVolume> files, string child, ParentClaim claim, bool isVhdx, int depth)
    {
        var folder = VolumeExtensions.FolderOf(child);
        var places = claim.Names.Select(name => $@"{folder}\{VolumeExtensions.NameOf(name.Replace('/', '\\'))}")
            .Concat(claim.Names.Where(name => name.Length > 2 && name[1] == ':').Select(name => name[2..]))
            .Where(place => !place.Equals(child, StringComparison.OrdinalIgnoreCase));
        var found = places.FirstOrDefault(place => files().FileExists(place)) ?? throw new UnreadableException(
            $"{child} holds only what differs from another disk, which is not there.",
            $"It names {string.Join(" and ", claim.Names.Take(2))}.",
            $"Put that file into the folder {(folder.Length == 0 ? "\\" : folder)} of the same volume.")
        {
            Reason = Remark.Of(ParentMissing, Fact.Path.Is(child), Fact.OtherPath.Is(claim.Names[0]))
        };
        var disk = OpenDisk(files, new FileInVolume(files, found), found, depth + 1);
        return isVhdx == disk is VhdxDisk ? disk : throw AnotherParent(child);
    }

    private static UnreadableException AnotherParent(string child) => new(
        $"The disk that {child} differs from is another one, or was changed since.",
        "The two have other identifiers than they should.",
        "Find the file that they were made with. Writing to a disk that others differ from breaks them.");

    private static DiskVolume VolumeOf(MachineDisk host, InsidePath place) =>
        host.Volumes.FirstOrDefault(volume => volume.Number == place.Volume) ?? throw new UnreadableException(
            $"There is no volume {place.Volume} on {host.Path}.",
            $"It has {host.Volumes.Count} volumes.",
            "'keel survey DISK' lists them.");

    private static IVolume FilesOf(MachineDisk host, InsidePath place)
    {
        var volume = VolumeOf(host, place);
        return volume.Files ?? throw volume.FilesProblem ?? new UnreadableException(
            $"{volume} has no files that keel reads.",
            $"It holds {(volume.Kind == FileSystemKind.Unknown ? "no known file system" : FileSystemProbe.Name(volume.Kind))}.",
            "Name another volume.");
    }
}

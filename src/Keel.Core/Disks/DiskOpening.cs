using Keel.Core.Disks.Nbd;
using Keel.Core.Disks.Virtual;
using Keel.Core.Errors;

namespace Keel.Core.Disks;

/// <summary>Opens disks, whatever they lie in: devices, plain images, virtual disks, and what is served over NBD.</summary>
public sealed class DiskOpening(DiskTerms terms)
{
    private const int UsualSectorBytes = 512;

    /// <summary>What a disk is called in full: its path with links resolved, or its address.</summary>
    /// <exception cref="UnreadableException">Nothing of that name is a disk.</exception>
    public static string FullName(string disk) => NbdAddress.IsOne(disk) ? disk : DiskPath.Resolve(disk);

    /// <summary>Opens a disk for looking.</summary>
    /// <exception cref="UnreadableException">It isn't there, isn't a disk, is damaged, or can't be opened.</exception>
    public IDisk Open(string disk)
    {
        if (NbdAddress.IsOne(disk)) return NbdDisk.Open(disk, SectorBytes);
        return Opened(DiskFile.Open(disk, terms.SectorBytes), forWriting: false);
    }

    /// <summary>Opens a disk for writing, and holds it alone until it is disposed of.</summary>
    /// <exception cref="RefusedException">It is in use, held by another program, or read-only; says by whom.</exception>
    /// <exception cref="UnreadableException">It can't be opened.</exception>
    public IDisk OpenForWriting(string disk)
    {
        if (NbdAddress.IsOne(disk)) return NbdDisk.Open(disk, SectorBytes).ForWriting();
        var format = FormatOf(disk);
        if (DiskPath.Resolve(disk) is var path && !DiskPath.IsBlockDevice(path)) ServedChildren.RefuseIfAny(path);
        if (IsServed(format))
        {
            using var file = DiskFile.Open(disk);
            return Serve(file, format, forWriting: true);
        }

        if (format != FileFormat.Raw) new ChildFiles(format).RefuseIfAny(path);
        return Opened(DiskFile.OpenForWriting(disk, terms.SectorBytes), forWriting: true);
    }

    private int SectorBytes => terms.SectorBytes ?? UsualSectorBytes;

    private static bool IsServed(FileFormat format) => format is FileFormat.Qcow2 or FileFormat.Vmdk or FileFormat.Vdi;

    private FileFormat FormatOf(string disk)
    {
        if (terms.Format is { } said) return said;
        using var file = DiskFile.Open(disk);
        return FormatOf(file);
    }

    private FileFormat FormatOf(DiskFile file) =>
        file.IsBlockDevice ? FileFormat.Raw : terms.Format ?? FileFormats.Of(file);

    private IDisk Opened(DiskFile file, bool forWriting)
    {
        try
        {
            var format = FormatOf(file);
            if (format == FileFormat.Raw) return Mapped(file);
            if (!IsServed(format)) return Virtual(file, format, forWriting);
            using (file) return Serve(file, format, forWriting);
        }
        catch
        {
            file.Dispose();
            throw;
        }
    }

    /// <summary>An image that ddrescue made of a failing disk has its map beside it.</summary>
    private static IDisk Mapped(DiskFile file) =>
        !file.IsBlockDevice && MapFile.Beside(file.Path) is { Missing.Count: > 0 } map ? new MappedDisk(file, map) : file;

    private VirtualDiskFile Virtual(DiskFile file, FileFormat format, bool forWriting)
    {
        var parents = new ParentFiles(terms);
        try
        {
            var form = format == FileFormat.Vhd ? DiskForm.Vhd : DiskForm.Vhdx;
            var disk = parents.Open(file, format);
            if (forWriting)
            {
                disk.RefuseUnwritable();
                foreach (var parent in parents.Opened) parent.HoldForReading();
            }

            return new VirtualDiskFile(file, disk, form, parents.Opened);
        }
        catch
        {
            parents.Close();
            throw;
        }
    }

    private NbdDisk Serve(DiskFile file, FileFormat format, bool forWriting)
    {
        var node = new ServedChain(terms).Resolve(file.Path, format);
        var traits = file.Traits;
        if (forWriting && node.IsPacked) throw VirtualDiskErrors.Packed(node.Path);
        var held = forWriting ? ServedFiles.Hold(node) : null;
        try
        {
            var disk = NbdDisk.Over(ImageServer.Start(node, forWriting), held, traits, SectorBytes);
            return forWriting ? disk.ForWriting() : disk;
        }
        catch
        {
            held?.Dispose();
            throw;
        }
    }
}
